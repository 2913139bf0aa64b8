/** Recordings on their way in, and who agreed that they are kept. */
import { type QueryClient, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { type Schemas, api, unwrap } from "../client";
import type { TakeFile } from "../takeFiles";
import { takesChanged } from "./takes";

/** Takes brought as files; `onPart`: told which one is sent, and the share of it that is there. */
export function useSendTakeFiles(pieceId: number, onPart: (index: number, share: number) => void) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (files: TakeFile[]) => {
      const { sendTakeFiles } = await import("../takeFiles"); // only who brings some needs it
      return sendTakeFiles(pieceId, files, onPart);
    },
    onSettled: () => takesChanged(client, pieceId),
  });
}

export function useDropSound(takeId: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (recordingId: number) =>
      unwrap(api.DELETE("/api/recordings/{recording_id}/sound", { params: { path: { recording_id: recordingId } } })),
    onSettled: () =>
      Promise.all([["take", takeId], ["consents"]].map((queryKey) => client.invalidateQueries({ queryKey }))),
  });
}

export const useConsents = () => useQuery({ queryKey: ["consents"], queryFn: () => unwrap(api.GET("/api/consents")) });

/** Whose link hears what hangs on them. */
const consentsChanged = (client: QueryClient) =>
  Promise.all([["consents"], ["students"]].map((queryKey) => client.invalidateQueries({ queryKey })));

export function useAddConsent() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["ConsentCreate"]) => unwrap(api.POST("/api/consents", { body })),
    onSuccess: () => consentsChanged(client),
  });
}

export function useWithdrawConsent() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (id: number) =>
      unwrap(api.DELETE("/api/consents/{consent_id}", { params: { path: { consent_id: id } } })),
    onSuccess: () => consentsChanged(client),
  });
}
