/** A first lesson, and the same for a parent: what stands in the docs, with its pictures. */
import { Link, useParams } from "react-router";

import lesson from "../../../../docs/first-lesson.md?raw";
import parent from "../../../../docs/for-a-parent.md?raw";
import { useIsTeacher } from "../../api/me";
import { Titled } from "../../ui/Titled";
import { type Block, type Inline, blocksOf } from "./markdown";

const PICTURES = import.meta.glob<string>(
  "../../../../docs/screenshots/{counting,together,recording,take,tonight}.png",
  { query: "?url", import: "default", eager: true },
);
const pictureOf = (file: string) => Object.entries(PICTURES).find(([path]) => path.endsWith(`/${file}`))?.[1];

export function Guide() {
  const isTeacher = useIsTeacher();
  const isForParent = useParams().for === "parent" || !isTeacher;
  const blocks = blocksOf(isForParent ? parent : lesson);
  const title = blocks[0]?.kind === "heading" ? blocks[0].words : "";
  return (
    <main id="main" className="mx-auto max-w-3xl px-8 py-5 max-md:px-4">
      <Titled title={title} />
      {isTeacher ? (
        <p className="mb-3 flex flex-wrap gap-5 text-quiet" data-screen-only="">
          <Link to={isForParent ? "/guide" : "/guide/parent"} className="underline underline-offset-4">
            {isForParent ? "For a teacher: a first lesson" : "For a parent, in ten sentences"}
          </Link>
          <button type="button" className="underline underline-offset-4" onClick={() => window.print()}>
            Print
          </button>
        </p>
      ) : null}
      {blocks.map((block, at) => (
        <Shown key={at} block={block} />
      ))}
    </main>
  );
}

function Shown({ block }: { block: Block }) {
  switch (block.kind) {
    case "heading":
      return block.depth === 1 ? (
        <h1 tabIndex={-1} className="mb-3 text-2xl font-bold focus:outline-none">
          {block.words}
        </h1>
      ) : (
        <h2 className="mt-8 mb-2 text-xl font-bold">{block.words}</h2>
      );
    case "picture":
      return (
        <img
          src={pictureOf(block.file)}
          alt={block.words}
          loading="lazy"
          className="my-3 max-h-[32rem] max-w-full rounded-lg border border-line"
        />
      );
    case "list":
      return (
        <ol className="list-decimal space-y-2 pl-8 text-lg">
          {block.items.map((item, at) => (
            <li key={at}>
              <Words words={item} />
            </li>
          ))}
        </ol>
      );
    case "paragraph":
      return (
        <p className="my-2">
          <Words words={block.words} />
        </p>
      );
  }
}

const Words = ({ words }: { words: readonly Inline[] }) =>
  words.map((one, at) => {
    if (one.kind === "bold") return <b key={at}>{one.words}</b>;
    if (one.kind === "name") return <em key={at}>{one.words}</em>;
    return one.kind === "code" ? <code key={at}>{one.words}</code> : <span key={at}>{one.words}</span>;
  });
