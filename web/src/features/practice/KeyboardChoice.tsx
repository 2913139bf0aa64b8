/** Which keyboard is listened to, and what to do where there is none. */
import { useEffect, useSyncExternalStore } from "react";

import { type Keyboards, STAND_IN } from "../../sound/keyboard";
import { Choice } from "../../ui/Choice";
import { Button } from "../../ui/kit";

export function KeyboardChoice({ keyboards, disabled }: { keyboards: Keyboards; disabled: boolean }) {
  const state = useSyncExternalStore(keyboards.subscribe, keyboards.snapshot);
  useEffect(() => {
    if (state.access === "unasked" && state.chosen && state.chosen !== STAND_IN.id) void keyboards.open();
  }, [keyboards, state.access, state.chosen]);
  const isStandIn = state.chosen === STAND_IN.id;
  const devices = state.devices.map(({ id, name }) => [id, name] as const);
  const shown = devices.some(([id]) => id === state.chosen) ? (state.chosen ?? "") : "";
  return (
    <div
      role="group"
      aria-label="Keyboard"
      className="grid grid-cols-[minmax(0,1fr)] gap-2 rounded-lg border border-line p-3"
    >
      {state.access === "open" && devices.length ? (
        <Choice
          label="Keyboard"
          value={shown}
          options={shown ? devices : [["", isStandIn ? "the stand-in" : "choose one"], ...devices]}
          onChange={(id) => {
            if (id) keyboards.choose(id);
          }}
        />
      ) : null}
      {state.access === "open" ? null : (
        <p>
          <Button
            look="quiet"
            disabled={disabled || state.access === "asking" || state.access === "unsupported"}
            onClick={() => void keyboards.open()}
          >
            {state.access === "asking" ? "Asking the browser …" : "Look for a keyboard"}
          </Button>
        </p>
      )}
      <p role="status" className="text-sm text-quiet">
        {isStandIn
          ? "The stand-in is chosen: the simulated student plays on it when you record."
          : WORDS[state.access](state.devices.length, state.lastKey)}
      </p>
    </div>
  );
}

const WORDS: Record<ReturnType<Keyboards["snapshot"]>["access"], (devices: number, lastKey: number | null) => string> =
  {
    unasked: () =>
      "Plug the keyboard in by cable and switch it on first. A MIDI file of a take can be dropped on the takes below.",
    asking: () => "The browser asks at its top whether this page may use MIDI devices.",
    unsupported: () =>
      "This browser cannot reach MIDI keyboards. Use another one, or record to a MIDI file and drop it on the takes below.",
    refused: () =>
      "The browser does not let this page use MIDI devices. Allow it in the page’s settings beside the address, " +
      "then look again; nothing is lost.",
    open: (devices, lastKey) =>
      devices === 0
        ? "No keyboard is there. Plug it in and switch it on: it turns up here by itself."
        : lastKey === null
          ? "Press a key to see whether it is heard."
          : `It is heard: the last key was ${keyName(lastKey)}.`,
  };

const NAMES = ["C", "C♯", "D", "E♭", "E", "F", "F♯", "G", "A♭", "A", "B♭", "B"];

/** A key by its letter and octave, middle C being C4. */
function keyName(pitch: number): string {
  return `${NAMES[pitch % 12]}${Math.floor(pitch / 12) - 1}`;
}
