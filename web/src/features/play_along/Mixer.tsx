/** Levels of what sounds, each with a switch; what of the count is said; the volume of all, with its caution. */
import { Button, Dot } from "../../ui/kit";
import { CHANNELS, type Channel, type Mix, SAID, type Said } from "../../sound/mix";

const CHANNEL_WORDS: Record<Channel, string> = {
  count: "Count",
  click: "Click",
  backing: "Backing",
  right: "Right hand",
  left: "Left hand",
  cue: "Cue words",
};

const SAID_WORDS: Record<Said, string> = {
  strike: "what is played",
  hold: "what is held, softer",
  rest: "rests, whispered",
};

type Props = { mix: Mix; hands: "right" | "left" | "both"; caution: string; onMix: (mix: Mix) => void };

export function Mixer({ mix, hands, caution, onMix }: Props) {
  const shown = CHANNELS.filter(
    (channel) => hands === "both" || (channel !== "right" && channel !== "left") || channel === hands,
  );
  return (
    <fieldset className="border-line pt-3 max-md:border-t md:max-lg:pt-0 lg:border-t">
      <legend className="float-left mb-1 w-full font-bold">What sounds</legend>
      <div className="clear-both grid grid-cols-[7.5rem_1fr] md:grid-cols-[7.5rem_1fr_1.2rem] items-center gap-x-2 gap-y-2">
        {shown.map((channel) => (
          <ChannelRow
            key={channel}
            channel={channel}
            mix={mix}
            onMix={onMix}
            keyName={String(CHANNELS.indexOf(channel) + 1)}
          />
        ))}
      </div>
      <div role="group" aria-label="What of the count is said" className="mt-2 flex flex-wrap gap-2 text-sm">
        <span className="text-quiet">Said:</span>
        {SAID.map((kind) => (
          <button
            key={kind}
            type="button"
            aria-pressed={mix.said[kind]}
            onClick={() => onMix({ ...mix, said: { ...mix.said, [kind]: !mix.said[kind] } })}
            className="flex min-h-9 items-center gap-2 rounded-lg px-1 hover:bg-here pointer-coarse:min-h-11"
          >
            <Dot isOn={mix.said[kind]} />
            {SAID_WORDS[kind]}
          </button>
        ))}
      </div>
      <label className="mt-3 flex items-center gap-2">
        <span className="w-[7.5rem] font-bold">All of it</span>
        <input
          type="range"
          min={0}
          max={100}
          step={5}
          value={Math.round(mix.volume * 100)}
          className="min-w-0 flex-1 accent-ink"
          onChange={(event) => onMix({ ...mix, volume: Number(event.target.value) / 100 })}
        />
      </label>
      <p className="mt-1 text-sm text-quiet">{caution}</p>
    </fieldset>
  );
}

function ChannelRow({
  channel,
  mix,
  onMix,
  keyName,
}: {
  channel: Channel;
  mix: Mix;
  onMix: (mix: Mix) => void;
  keyName: string;
}) {
  const words = CHANNEL_WORDS[channel];
  const muted = mix.muted[channel];
  return (
    <>
      <button
        type="button"
        aria-pressed={!muted}
        aria-label={`${words}: ${muted ? "silent" : "sounds"}`}
        className="flex min-h-9 items-center gap-2 truncate rounded-lg px-1 text-left hover:bg-here pointer-coarse:min-h-11"
        onClick={() => onMix({ ...mix, muted: { ...mix.muted, [channel]: !muted } })}
      >
        <Dot isOn={!muted} />
        {words}
      </button>
      <input
        type="range"
        aria-label={`how loud: ${words}`}
        min={0}
        max={100}
        step={5}
        value={Math.round(mix.levels[channel] * 100)}
        disabled={muted}
        className="w-full min-w-0 accent-ink disabled:opacity-40"
        onChange={(event) => onMix({ ...mix, levels: { ...mix.levels, [channel]: Number(event.target.value) / 100 } })}
      />
      <kbd className="text-sm text-quiet max-md:hidden">{keyName}</kbd>
    </>
  );
}

/** One of a few, all in sight. */
export function OneOf<T extends string>({
  label,
  value,
  options,
  onChange,
}: {
  label: string;
  value: T;
  options: readonly (readonly [T, string])[];
  onChange: (value: T) => void;
}) {
  return (
    <div role="group" aria-label={label} className="flex gap-1">
      {options.map(([key, words]) => (
        <Button
          key={key}
          aria-pressed={key === value}
          look={key === value ? "strong" : "plain"}
          className="flex-1 px-1 py-2 whitespace-nowrap"
          onClick={() => onChange(key)}
        >
          {words}
        </Button>
      ))}
    </div>
  );
}
