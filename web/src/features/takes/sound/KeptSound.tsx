/** The recording of a take: what it was like, whether its sound is kept, how much it is, and a way to delete it. */
import type { Take } from "../../../api/client";
import { useDropSound } from "../../../api/queries/recordings";
import { Button, Problem } from "../../../ui/kit";

export function KeptSound({ take }: { take: Take }) {
  const drop = useDropSound(take.id);
  const { recording } = take;
  if (!recording) return null;
  const words = take.heard_words.map((sentence) => (
    <p key={sentence} className="mb-1">
      {sentence}
    </p>
  ));
  if (!recording.is_kept)
    return (
      <div className="mt-5 text-sm">
        {words}
        <p className="wrap-anywhere text-quiet">Heard in a recording ({recording.filename}); its sound is not kept.</p>
      </div>
    );
  return (
    <div className="mt-5 text-sm" data-screen-only="">
      {words}
      <p className="wrap-anywhere text-quiet">
        The sound is kept ({recording.filename}, {(recording.size / 2 ** 20).toFixed(1)} MB)
        {recording.may_hear ? "" : "; it is heard by the parent who agreed to it"}.
      </p>
      <Button
        look="quiet"
        disabled={drop.isPending}
        onClick={() => {
          drop.mutate(recording.id);
        }}
      >
        Delete the sound
      </Button>
      {drop.error ? <Problem error={drop.error} /> : null}
    </div>
  );
}
