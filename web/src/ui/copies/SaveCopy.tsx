/** All of the studio, or one student's share, packed into a file that is then saved. */
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";

import { fileOf, saveBundle } from "../../api/bundles";
import { Button, Problem } from "../kit";
import { countedWords, sizeWords } from "./words";

const LONG = "With many recordings this takes minutes.";

/** ``studentId``: whose share, ``null``: all of the studio. */
export function SaveCopy({ studentId, words }: { studentId: number | null; words: string }) {
  const [share, setShare] = useState(0);
  const save = useMutation({
    mutationFn: () => saveBundle(studentId, setShare),
    onMutate: () => setShare(0),
    onSuccess: (bundle) => {
      const link = document.createElement("a");
      link.href = fileOf(bundle);
      link.download = bundle.filename;
      link.click();
    },
  });
  const made = save.data;
  return (
    <>
      <p>
        <Button disabled={save.isPending} onClick={() => save.mutate()}>
          {words}
        </Button>
      </p>
      <div role="status" className="mt-2">
        {save.isPending ? <p>Packing it … {share ? `${Math.floor(100 * share)} %` : LONG}</p> : null}
        {made ? (
          <p>
            <a
              className="font-bold underline underline-offset-4 pointer-coarse:inline-block pointer-coarse:py-2.5"
              href={fileOf(made)}
              download={made.filename}
            >
              {made.filename}
            </a>{" "}
            is being saved: {countedWords(made.contents?.counted ?? {})}; {sizeWords(made.size)}.
            {made.contents?.counted.damaged
              ? ` ${made.contents.counted.damaged} rows could not be read and are not in it.`
              : null}
          </p>
        ) : null}
      </div>
      {save.error ? <Problem error={save.error} /> : null}
    </>
  );
}
