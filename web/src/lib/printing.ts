/** What is folded is unfolded for paper, and folded again after it. */
export function unfoldOnPaper(): void {
  let unfolded: HTMLDetailsElement[] = [];
  window.addEventListener("beforeprint", () => {
    unfolded = [...document.querySelectorAll<HTMLDetailsElement>("details:not([open])")].filter(
      (one) => !one.closest("[data-screen-only]"),
    );
    for (const one of unfolded) one.open = true;
  });
  window.addEventListener("afterprint", () => {
    for (const one of unfolded) one.open = false;
    unfolded = [];
  });
}
