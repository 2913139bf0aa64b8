/**
 * A studio, or a student's share of it, as a file: packed by a job and taken along; sent in by parts, looked at, brought
 * in. What breaks off is gone on with. Knows no React.
 */
import { again } from "./again";
import { type Schemas, api, unwrap } from "./client";
import { jobOver } from "./queries/jobs";

export type Bundle = Schemas["BundlePublic"];

const path = (bundle_id: number) => ({ params: { path: { bundle_id } } });

/** Has it packed. ``studentId``: whose share, ``null``: all of the studio; ``onPart``: told the share that is packed. */
export async function saveBundle(studentId: number | null, onPart: (share: number) => void): Promise<Bundle> {
  const { bundle, job } = await unwrap(api.POST("/api/bundles", { body: { student_id: studentId } }));
  await jobOver(job, undefined, ({ progress, whole }) => onPart(whole ? progress / whole : 0));
  return unwrap(api.GET("/api/bundles/{bundle_id}", path(bundle.id)));
}

export const fileOf = (bundle: Bundle): string => `/api/bundles/${bundle.id}/file`;

/** Sends a file; gives what is in it. ``onPart``: told the share that is there. */
export async function sendBundle(file: File, onPart: (share: number) => void): Promise<Bundle> {
  const coming = await again(() =>
    unwrap(api.POST("/api/bundles/coming", { body: { filename: file.name || "a.zip" } })),
  );
  const parts = Math.ceil(file.size / coming.chunk_bytes);
  for (let number = 0; number < parts; number += 1) {
    const part = file.slice(number * coming.chunk_bytes, (number + 1) * coming.chunk_bytes);
    const bytes = new Uint8Array(await part.arrayBuffer());
    await again(() =>
      unwrap(
        api.PUT("/api/bundles/{bundle_id}/chunks/{number}", {
          params: { path: { bundle_id: coming.id, number } },
          body: "",
          bodySerializer: () => bytes,
          headers: { "Content-Type": "application/octet-stream" },
        }),
      ),
    );
    onPart((number + 1) / parts);
  }
  return unwrap(api.POST("/api/bundles/{bundle_id}/complete", path(coming.id)));
}

/** Has it brought in; gives it with what it brought. */
export async function bringIn(bundle: Bundle): Promise<Bundle> {
  await jobOver(await unwrap(api.POST("/api/bundles/{bundle_id}/bring-in", path(bundle.id))));
  return unwrap(api.GET("/api/bundles/{bundle_id}", path(bundle.id)));
}

export const takeBack = (bundle: Bundle): Promise<Bundle> =>
  unwrap(api.POST("/api/bundles/{bundle_id}/take-back", path(bundle.id)));
