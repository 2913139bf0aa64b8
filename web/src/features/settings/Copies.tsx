/** The studio saved as one file, and such a file brought in: looked at first, and taken back if it was the wrong one. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";

import { type Bundle, bringIn, sendBundle, takeBack } from "../../api/bundles";
import { SaveCopy } from "../../ui/copies/SaveCopy";
import { countedWords } from "../../ui/copies/words";
import { Button, Problem, useToast } from "../../ui/kit";

export function Copies() {
  return (
    <section aria-label="Copies" className="mt-8 max-w-3xl">
      <h2 className="mb-2 text-lg font-bold">A copy to keep</h2>
      <p className="mb-3">
        All pieces, students, takes and recordings as one zip of ordinary files, to lay aside or to move to another
        computer. Passwords and links are not in it, nor what was deleted. One student’s share: on that student’s page,
        behind the three dots.
      </p>
      <SaveCopy studentId={null} words="Save a copy of the studio" />
      <BringIn />
    </section>
  );
}

function BringIn() {
  const client = useQueryClient();
  const toast = useToast();
  const input = useRef<HTMLInputElement>(null);
  const [share, setShare] = useState(0);
  const send = useMutation({ mutationFn: (file: File) => sendBundle(file, setShare), onMutate: () => setShare(0) });
  const back = useMutation({ mutationFn: takeBack, onSuccess: () => client.invalidateQueries() });
  const bring = useMutation({
    mutationFn: bringIn,
    onSuccess: async (bundle) => {
      await client.invalidateQueries();
      send.reset();
      toast(`${countedWords(bundle.brought ?? {})} came in.`, () => back.mutate(bundle));
    },
  });
  const isBusy = send.isPending || bring.isPending;
  const error = send.error ?? bring.error ?? back.error;
  return (
    <div className="mt-5">
      <h3 className="mb-1 font-bold">Bring one in</h3>
      <p className="mb-3">What is here stays as it is; what is in the file is added.</p>
      <input
        ref={input}
        type="file"
        accept=".zip,application/zip"
        className="sr-only"
        aria-label="A copy of a studio"
        tabIndex={-1}
        onChange={(event) => {
          const file = event.target.files?.[0];
          event.target.value = "";
          bring.reset();
          if (file) send.mutate(file);
        }}
      />
      <Button disabled={isBusy} onClick={() => input.current?.click()}>
        Choose a copy …
      </Button>
      <div role="status" className="mt-2">
        {send.isPending ? (
          <p>
            Sending it …{" "}
            <progress className="mt-1 block w-full max-w-md" value={share} max={1} aria-label="How much was sent">
              {Math.round(100 * share)} %
            </progress>
          </p>
        ) : null}
        {bring.isPending ? <p>Bringing it in … You can leave this page; it goes on.</p> : null}
      </div>
      {send.data && !bring.isPending ? (
        <Looked bundle={send.data} onBring={() => bring.mutate(send.data)} onLeave={() => send.reset()} />
      ) : null}
      {error ? <Problem error={error} /> : null}
    </div>
  );
}

const BECOMES =
  "Nothing is in this studio yet: it takes over what the other is called, and how it teaches, counts and speaks.";
const IS_ADDED = [
  "It is added to what is here; what this studio is called and how it teaches stays.",
  "Pieces that are in both stand twice on the shelf.",
].join(" ");

type LookedProps = { bundle: Bundle; onBring: () => void; onLeave: () => void };

/** What is in the file, before anything of it is here. */
function Looked({ bundle, onBring, onLeave }: LookedProps) {
  const { contents, is_first: isFirst } = bundle;
  if (!contents) return null;
  const isStudio = contents.of === "studio";
  return (
    <div className="mt-3 rounded-lg border border-ink bg-card p-5">
      <p className="font-bold">
        {isStudio ? `The studio “${contents.studio}”` : `A student of “${contents.studio}”`}:{" "}
        {countedWords(contents.counted)}
      </p>
      <p className="mt-1">{isStudio && isFirst ? BECOMES : IS_ADDED}</p>
      <p className="mt-3 flex flex-wrap items-center gap-5">
        <Button look="strong" onClick={onBring}>
          Bring it in
        </Button>
        <Button look="quiet" onClick={onLeave}>
          Leave it
        </Button>
      </p>
    </div>
  );
}
