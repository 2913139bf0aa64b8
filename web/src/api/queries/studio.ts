/** What holds for the whole studio: voice, choices, limits, the tables of the trade. */
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { type Schemas, api, fileBody, unwrap } from "../client";

export const useCountSystems = () =>
  useQuery({ queryKey: ["count-systems"], queryFn: () => unwrap(api.GET("/api/count-systems")), staleTime: Infinity });

/** How the machine behind it is: looked at once a minute. */
export const useHealth = () =>
  useQuery({
    queryKey: ["health"],
    queryFn: () => unwrap(api.GET("/api/health")),
    refetchInterval: 60_000,
    retry: false,
  });

export const useVoice = () => useQuery({ queryKey: ["voice"], queryFn: () => unwrap(api.GET("/api/voice")) });

/** Any word as the voice says it; asked for only when one is typed. */
export const useVoiceWord = (say: string) =>
  useQuery({
    queryKey: ["voice", "word", say],
    queryFn: () => unwrap(api.GET("/api/voice/word", { params: { query: { say } } })),
    enabled: say !== "",
  });

/** Keeps a recording of one word; it is heard from now on. */
export function useRecordWord() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ({ reading, spoken, audio }: { reading: string; spoken: string; audio: Blob }) =>
      unwrap(
        api.POST("/api/voice/own", {
          params: { query: { reading, spoken } },
          ...fileBody("audio", audio, "word.wav"),
        }),
      ),
    onSettled: () => client.invalidateQueries({ queryKey: ["voice"] }),
  });
}

/** Moves where a recording's vowel begins, or takes it out of use and back. */
export function useChangeOwnWord() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ({ id, ...body }: { id: number; vowel_s?: number; is_used?: boolean }) =>
      unwrap(api.PATCH("/api/voice/own/{word_id}", { params: { path: { word_id: id } }, body })),
    onSettled: () => client.invalidateQueries({ queryKey: ["voice"] }),
  });
}

export const useStudioChoices = () =>
  useQuery({ queryKey: ["studio-choices"], queryFn: () => unwrap(api.GET("/api/choices")) });

export function usePutStudioChoices() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["StudioChoices"]) => unwrap(api.PUT("/api/choices", { body })),
    onSuccess: (choices) => {
      client.setQueryData(["studio-choices"], choices);
      return Promise.all(
        ["counts", "notation", "pieces", "piece", "roadmap", "pencil", "question-kinds", "count-systems", "voice"].map(
          (name) => client.invalidateQueries({ queryKey: [name] }),
        ),
      );
    },
  });
}

export const useLimits = () =>
  useQuery({ queryKey: ["limits"], queryFn: () => unwrap(api.GET("/api/limits")), staleTime: Infinity });

/** What the studio calls lengths of notes. */
export const useNaming = () => useStudioChoices().data?.length_names ?? "american";

export const useCountExample = (layer: Schemas["ChoiceLayer"]) =>
  useQuery({
    queryKey: ["count-example", layer],
    queryFn: () => unwrap(api.POST("/api/count-example", { body: layer })),
    placeholderData: keepPreviousData,
  });

export const useFaults = (enabled: boolean) =>
  useQuery({ queryKey: ["faults"], queryFn: () => unwrap(api.GET("/api/faults")), enabled, staleTime: Infinity });
