/** Who saw, changed or deleted what of people: when, who, what, without content. */
import { useInfiniteQuery } from "@tanstack/react-query";

import { type Schemas, api, unwrap } from "../../api/client";
import { timeOf } from "../../lib/words";
import { Button, Loading, Problem } from "../../ui/kit";

const useAudit = () =>
  useInfiniteQuery({
    queryKey: ["audit"],
    initialPageParam: null as number | null,
    queryFn: ({ pageParam }) =>
      unwrap(api.GET("/api/audit", { params: { query: pageParam === null ? {} : { before: pageParam } } })),
    getNextPageParam: (page: Schemas["AuditPage"]) => page.next,
    staleTime: 0,
  });

/** ``a student``, by name where it is one who is still here. */
function whatWords({ what, of_kind, of_id, of_name }: Schemas["AuditLine"]): string {
  if (of_kind === null) return what;
  if (of_kind === "student") return `${what} ${of_name ?? "a student who is not here any more"}`;
  return `${what} a ${of_kind}${of_id === null ? "" : ` (number ${of_id})`}`;
}

export function Audit() {
  const audit = useAudit();
  if (audit.error) return <Problem error={audit.error} />;
  if (!audit.data) return <Loading what="Fetching the log" />;
  const lines = audit.data.pages.flatMap((page) => page.items);
  return (
    <section aria-label="Log" className="max-w-3xl">
      <p className="mb-3 text-quiet">
        Who looked at, changed or deleted what of people. It holds no content, and is kept for 400 days.
      </p>
      {lines.length === 0 ? <p>Nothing yet.</p> : null}
      <ul className="divide-y divide-line border-y border-line">
        {lines.map((line) => (
          <li key={line.id} className="flex flex-wrap gap-x-5 py-2">
            <span className="w-44 text-quiet">{timeOf(line.at)}</span>
            <span className="min-w-0 flex-1">
              <b>{line.who ?? `a ${line.role}`}</b>
              {line.role === "teacher" ? "" : ` (${line.role})`} {whatWords(line)}
            </span>
          </li>
        ))}
      </ul>
      {audit.hasNextPage ? (
        <Button look="quiet" disabled={audit.isFetchingNextPage} onClick={() => void audit.fetchNextPage()}>
          Earlier
        </Button>
      ) : null}
    </section>
  );
}
