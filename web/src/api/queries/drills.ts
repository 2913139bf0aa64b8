/** Drills: the kinds there are, one to look at, one to keep. */
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { type Schemas, api, unwrap } from "../client";

export type DrillWanted = { kind: string; options: Record<string, string> };

/** What can be made; it changes only with the program. */
export const useDrillKinds = () =>
  useQuery({ queryKey: ["drills"], queryFn: () => unwrap(api.GET("/api/drills")), staleTime: Infinity });

/** A drill as it would be, of its ruler so many bars; the one before stays in sight until it is there. */
export const useDrill = (wanted: DrillWanted, isReady: boolean, bars: number | undefined) =>
  useQuery({
    queryKey: ["drills", wanted, bars],
    queryFn: () =>
      unwrap(api.POST("/api/drills/look", { params: { query: bars === undefined ? {} : { bars } }, body: wanted })),
    placeholderData: keepPreviousData,
    enabled: isReady,
    retry: false,
  });

/** Keeps it on the shelf. */
export function useKeepDrill() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (wanted: DrillWanted): Promise<Schemas["PiecePublic"]> =>
      unwrap(api.POST("/api/drills", { body: wanted })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["pieces"] }),
  });
}
