/** What the device is worked with. */

/** Whether its main pointer is a finger. */
export const isTouch = (): boolean =>
  typeof window.matchMedia === "function" && window.matchMedia("(pointer: coarse)").matches;
