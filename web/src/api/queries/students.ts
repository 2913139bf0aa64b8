/** Students of the studio, what is kept of each, the studies they were given; and the studio itself. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { type Schemas, api, unwrap } from "../client";

export type Facts = Schemas["StudentFactsPublic"];
export type StudentShown = Schemas["StudentShownPublic"];

/** As many are fetched at once. */
const MANY = 200;

/** All students, by name, fetched page by page. */
export const useStudents = () =>
  useQuery({
    queryKey: ["students"],
    queryFn: async ({ signal }) => {
      const found: Schemas["StudentShort"][] = [];
      for (let after: number | null = null, isMore = true; isMore; isMore = after !== null) {
        const query = after === null ? { limit: MANY } : { after, limit: MANY };
        const page: Schemas["StudentPage"] = await unwrap(api.GET("/api/students", { params: { query }, signal }));
        found.push(...page.items);
        after = page.next;
      }
      return found;
    },
  });

const keyOf = (id: number) => ["students", id];

export const useStudent = (id: number) =>
  useQuery({
    queryKey: keyOf(id),
    queryFn: () => unwrap(api.GET("/api/students/{student_id}", { params: { path: { student_id: id } } })),
  });

/** The newest takes of a student, of all pieces. */
export const useStudentTakes = (id: number, limit: number) =>
  useQuery({
    queryKey: ["students", id, "takes", limit],
    queryFn: () =>
      unwrap(api.GET("/api/students/{student_id}/takes", { params: { path: { student_id: id }, query: { limit } } })),
  });

/** What a student practises tonight. */
export const useTonight = (id: number) =>
  useQuery({
    queryKey: ["students", id, "tonight"],
    queryFn: () => unwrap(api.GET("/api/students/{student_id}/tonight", { params: { path: { student_id: id } } })),
  });

export function useAddStudent() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: Facts) => unwrap(api.POST("/api/students", { body })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["students"] }),
  });
}

/** What is changed of a student may change every ladder of hers. */
function useStudentChange<Body>(ask: (body: Body) => Promise<unknown>) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ask,
    onSettled: () =>
      Promise.all([
        client.invalidateQueries({ queryKey: ["students"] }),
        client.invalidateQueries({ queryKey: ["piece"] }),
        client.invalidateQueries({ queryKey: ["pieces"] }),
      ]),
  });
}

export const useUpdateStudent = (id: number) =>
  useStudentChange((body: Schemas["StudentUpdate"]) =>
    unwrap(api.PUT("/api/students/{student_id}", { params: { path: { student_id: id } }, body })),
  );

/** Off the list, or back on it. */
export const useStudentLeaves = () =>
  useStudentChange(({ id, leaves }: { id: number; leaves: boolean }) => {
    const params = { path: { student_id: id } };
    return leaves
      ? unwrap(api.DELETE("/api/students/{student_id}", { params }))
      : unwrap(api.POST("/api/students/{student_id}/restore", { params }));
  });

export const useWhoLeft = () =>
  useQuery({ queryKey: ["students", "left"], queryFn: () => unwrap(api.GET("/api/who-left")) });

export const useErase = () =>
  useStudentChange((id: number) =>
    unwrap(api.POST("/api/students/{student_id}/erase", { params: { path: { student_id: id } } })),
  );

export const useGiveStudy = () =>
  useStudentChange((body: Schemas["StudyGive"]) => unwrap(api.POST("/api/studies", { body })));

export const useEndStudy = () =>
  useStudentChange(({ id, ended }: { id: number; ended: boolean }) =>
    unwrap(api.PUT("/api/studies/{study_id}/ended", { params: { path: { study_id: id } }, body: { ended } })),
  );

export const useStudio = () => useQuery({ queryKey: ["studio"], queryFn: () => unwrap(api.GET("/api/studio")) });

export function usePutStudio() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["StudioPublic"]) => unwrap(api.PUT("/api/studio", { body })),
    onSuccess: () => client.invalidateQueries(),
  });
}
