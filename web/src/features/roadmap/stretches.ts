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

/** ``1-4, 1-3, 5`` as bars in order; a stretch goes through the bars as they are written. */
export function orderOf(text: string, names: readonly string[]): { order: string[] } | { problem: string } {
  const order: string[] = [];
  for (const part of text
    .split(/[,·;]+/)
    .map((one) => one.trim())
    .filter(Boolean)) {
    const [first = "", last = first] = names.includes(part) ? [part] : part.split(/\s*[-–]\s*/);
    const [from, to] = [names.indexOf(first), names.indexOf(last)];
    if (from < 0 || to < 0) return { problem: `There is no bar “${from < 0 ? first : last}” in this piece.` };
    if (to < from)
      return { problem: `Bar ${first} comes after bar ${last}; write the two stretches one after the other.` };
    order.push(...names.slice(from, to + 1));
  }
  return order.length ? { order } : { problem: "Name at least one bar." };
}
