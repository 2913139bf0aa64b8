/** A teacher's own account; personal links of a student, and by what addresses they lead here. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { type Schemas, api, unwrap } from "../client";

export const useAccount = () => useQuery({ queryKey: ["account"], queryFn: () => unwrap(api.GET("/api/account")) });

function useAccountChange<Body, Answer>(ask: (body: Body) => Promise<Answer>) {
  const client = useQueryClient();
  return useMutation({ mutationFn: ask, onSuccess: () => client.invalidateQueries({ queryKey: ["account"] }) });
}

export const useChangePassword = () =>
  useAccountChange((body: Schemas["PasswordChange"]) => unwrap(api.PUT("/api/account/password", { body })));
export const useRecoveryCode = () =>
  useAccountChange((password: string) => unwrap(api.POST("/api/account/recovery-code", { body: { password } })));
export const useOfferSecondFactor = () =>
  useMutation({
    mutationFn: (password: string) => unwrap(api.POST("/api/account/second-factor", { body: { password } })),
  });
export const useSecondFactor = () =>
  useAccountChange((body: Schemas["SecondFactorUpdate"]) => unwrap(api.PUT("/api/account/second-factor", { body })));
export const useEndSession = () =>
  useAccountChange((id: number) =>
    unwrap(api.DELETE("/api/account/sessions/{session_id}", { params: { path: { session_id: id } } })),
  );

// -- personal links --------------------------------------------------------------------------------------

/** By what addresses other devices come in. */
export const useAddresses = () =>
  useQuery({ queryKey: ["addresses"], queryFn: () => unwrap(api.GET("/api/addresses")) });

const linksOf = (student: number) => ["students", student, "links"];

export const useLinks = (student: number) =>
  useQuery({
    queryKey: linksOf(student),
    queryFn: () => unwrap(api.GET("/api/students/{student_id}/links", { params: { path: { student_id: student } } })),
  });

export function useMakeLink(student: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["LinkCreate"]) =>
      unwrap(api.POST("/api/students/{student_id}/links", { params: { path: { student_id: student } }, body })),
    onSuccess: () => client.invalidateQueries({ queryKey: linksOf(student) }),
  });
}

export function useRemoveLink(student: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (link_id: number) =>
      unwrap(
        api.DELETE("/api/students/{student_id}/links/{link_id}", {
          params: { path: { student_id: student, link_id } },
        }),
      ),
    onSettled: () => client.invalidateQueries({ queryKey: linksOf(student) }),
  });
}
