/** The little of Markdown that our guides are written in, as blocks: headings, paragraphs, numbered lists, pictures. */

export type Inline = { kind: "plain" | "bold" | "name" | "code"; words: string };
export type Block =
  | { kind: "heading"; depth: number; words: string }
  | { kind: "picture"; file: string; words: string }
  | { kind: "list"; items: Inline[][] }
  | { kind: "paragraph"; words: Inline[] };

const PICTURE = /^!\[(.*)\]\((.*)\)$/;

export function blocksOf(text: string): Block[] {
  return text
    .split(/\n{2,}/)
    .map((block) => block.trim().replace(/\n(?!\d+\. )/g, " "))
    .filter(Boolean)
    .map(blockOf);
}

function blockOf(block: string): Block {
  const heading = /^(#+) (.*)$/.exec(block);
  if (heading) return { kind: "heading", depth: heading[1]?.length ?? 1, words: heading[2] ?? "" };
  const picture = PICTURE.exec(block);
  if (picture) return { kind: "picture", words: picture[1] ?? "", file: (picture[2] ?? "").split("/").pop() ?? "" };
  if (/^\d+\. /.test(block))
    return { kind: "list", items: block.split("\n").map((line) => inlinesOf(line.replace(/^\d+\. /, ""))) };
  return { kind: "paragraph", words: inlinesOf(block) };
}

const SIGNS = { "**": "bold", "*": "name", "`": "code" } as const;

export function inlinesOf(text: string): Inline[] {
  return text
    .split(/(\*\*[^*]+\*\*|\*[^*]+\*|`[^`]+`)/)
    .filter(Boolean)
    .map((part) => {
      for (const [sign, kind] of Object.entries(SIGNS))
        if (part.startsWith(sign) && part.length > 2 * sign.length)
          return { kind, words: part.slice(sign.length, -sign.length) };
      return { kind: "plain", words: part };
    });
}
