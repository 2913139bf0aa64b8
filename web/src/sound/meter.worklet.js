/* global AudioWorkletProcessor, sampleRate, currentFrame, registerProcessor */
/**
 * Hears the clicks as they are really rendered: says in which frame each begins. Runs in the audio thread, so that a busy
 * page does not disturb it. A click begins where the sound rises after QUIET_S of silence.
 */
const LOUD = 0.004;
const QUIET_S = 0.012;

class ClickMeter extends AudioWorkletProcessor {
    constructor() {
        super();
        this.quiet = Infinity;
    }

    process(inputs) {
        const samples = inputs[0]?.[0];
        if (!samples) {
            this.quiet += 128;
            return true;
        }
        for (let i = 0; i < samples.length; i++) {
            if (Math.abs(samples[i]) > LOUD) {
                if (this.quiet > QUIET_S * sampleRate) this.port.postMessage(currentFrame + i);
                this.quiet = 0;
            } else this.quiet += 1;
        }
        return true;
    }
}

registerProcessor("click-meter", ClickMeter);
