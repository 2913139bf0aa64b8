/** Whether one stays signed in here. */
export function OwnComputer({ stays, onChange }: { stays: boolean; onChange: (stays: boolean) => void }) {
  return (
    <label className="mb-3 flex min-h-11 items-center gap-3">
      <input
        type="checkbox"
        checked={stays}
        onChange={(event) => onChange(event.target.checked)}
        className="size-5 accent-ink"
      />
      This is my own computer: I stay signed in on it
    </label>
  );
}
