/** Whose ladder it is: that of the whole piece, or of some bars that have one of their own; bars that are chosen can be
 * given one. Nothing is shown where there is nothing to choose. */
import { usePassages } from "../../api/queries/studies";

type Props = {
  pieceId: number;
  /** Whose ladders. */
  student: number;
  /** Of the ladder that is shown, empty for all of the piece. */
  measures: string;
  /** Bars that are chosen on the ruler. */
  chosen: string | null;
  onChoose: (measures: string) => void;
};

const words = (measures: string) =>
  measures ? `${measures.includes("-") ? "bars" : "bar"} ${measures.replace("-", "–")}` : "the whole piece";

export function PassageChoice({ pieceId, student, measures, chosen, onChoose }: Props) {
  const passages = usePassages(pieceId, student).data ?? [];
  const others = ["", ...passages].filter((one) => one !== measures);
  const isNew = chosen !== null && chosen !== measures && !passages.includes(chosen);
  if (!measures && !passages.length && !isNew) return null;
  return (
    <p className="basis-full text-sm" aria-label="Whose ladder">
      {measures || passages.length ? <>The ladder of {words(measures)}. </> : null}
      {others.length && (measures || passages.length)
        ? others.map((one) => (
            <button
              key={one}
              type="button"
              className="mr-2 min-h-8 underline pointer-coarse:min-h-11"
              onClick={() => onChoose(one)}
            >
              {words(one)}
            </button>
          ))
        : null}
      {isNew && chosen ? (
        <button
          type="button"
          className="min-h-8 font-semibold underline pointer-coarse:min-h-11"
          onClick={() => onChoose(chosen)}
        >
          Make a ladder of {words(chosen)}
        </button>
      ) : null}
    </p>
  );
}
