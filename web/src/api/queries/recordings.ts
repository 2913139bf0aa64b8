/** Recordings on their way in, and who agreed that they are kept. */
import { type QueryClient, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { type Schemas, api, unwrap } from "../client";
import type { RecordingAsked } from "../recording";
import { takesChanged } from "./takes";

/** Sends recordings one after the other; `onPart`: told which one, and the share of it that is there. */
export function useSendRecordings(pieceId: number, onPart: (index: number, share: number) => void) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (sounds: { asked: RecordingAsked; sound: Blob }[]) => {
      const { sendRecording } = await import("../recording"); // only who sends one needs it
      const takes: number[] = [];
      for (const [index, { asked, sound }] of sounds.entries())
        takes.push(
          await sendRecording(pieceId, asked, sound, (share) => {
            onPart(index, share);
          }),
        );
      return takes;
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
