/** Bars in playing order as stretches that go on: 1 2 1 2 3 is 1–2 · 1–3. */
export function runsOf(order: readonly string[]): string[] {
  const runs: { first: string; last: string }[] = [];
  for (const name of order) {
    const run = runs.at(-1);
    if (run && Number(name) === Number(run.last) + 1) run.last = name;
    else runs.push({ first: name, last: name });
  }
  return runs.map(({ first, last }) => (first === last ? first : `${first}–${last}`));
}
