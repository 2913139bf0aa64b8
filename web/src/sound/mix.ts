/** How loud each part of a play-along is, what of the count is said, and what that makes of a track's gain. */
import type { Schemas } from "../api/client";

export type Track = Schemas["Track"];

/** What has a level of its own on the screen; the count's three tracks share one. */
export const CHANNELS = ["count", "click", "backing", "right", "left", "cue"] as const;
export type Channel = (typeof CHANNELS)[number];

export const SAID = ["strike", "hold", "rest"] as const;
export type Said = (typeof SAID)[number];

export type Mix = {
  /** All of it, 0 to 1. */
  volume: number;
  levels: Record<Channel, number>;
  muted: Record<Channel, boolean>;
  /** Which kinds of counts are said. */
  said: Record<Said, boolean>;
};

/** Half of full: comfortable on most machines, and there is a limiter behind it. */
export const START_VOLUME = 0.5;

/** A fresh mix: the server's usual levels; hands and backing wait until they are wanted. */
export function startMix(usual: Record<Track, number>): Mix {
  return {
    volume: START_VOLUME,
    levels: {
      count: usual.strike,
      click: usual.click,
      backing: usual.backing,
      right: usual.right,
      left: usual.left,
      cue: usual.cue,
    },
    muted: { count: false, click: false, backing: true, right: false, left: false, cue: false },
    said: { strike: true, hold: true, rest: true },
  };
}

const CHANNEL_OF: Record<Track, Channel> = {
  strike: "count",
  hold: "count",
  rest: "count",
  click: "click",
  backing: "backing",
  right: "right",
  left: "left",
  cue: "cue",
};

export const isSaid = (track: Track): track is Said => (SAID as readonly string[]).includes(track);

/** The gain of a track, 0 to 1, before the volume of all. */
export function gainOf(mix: Mix, track: Track): number {
  const channel = CHANNEL_OF[track];
  if (mix.muted[channel] || (isSaid(track) && !mix.said[track])) return 0;
  return mix.levels[channel];
}

/** The mix as a sound file's address has it. */
export function levelsText(mix: Mix): string {
  return (Object.keys(CHANNEL_OF) as Track[])
    .map((track) => `${track}:${Math.round(100 * gainOf(mix, track))}`)
    .join(",");
}
