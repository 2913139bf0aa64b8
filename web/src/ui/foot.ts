/** What starts it stands where a hand finds it: in its card beside the ruler, or at the foot of a smaller screen. */
export const FOOT_LOOK = [
  "my-3 grid gap-3 max-xl:fixed max-xl:inset-x-0 max-xl:bottom-0 max-xl:z-20 max-xl:m-0 max-xl:gap-2",
  "max-xl:border-t max-xl:border-line max-xl:bg-paper max-xl:px-3 max-xl:py-2 md:max-xl:px-8",
].join(" ");

export const START_LOOK = [
  "min-h-13 px-3 text-lg whitespace-nowrap max-xl:min-h-11 max-md:px-1 max-md:text-base max-[385px]:text-sm",
].join(" ");
