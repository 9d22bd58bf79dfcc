/** The generated client, and errors as sentences. */
import createClient from "openapi-fetch";
import type { components, paths } from "./schema.gen";

export type Schemas = components["schemas"];
export type Episode = Schemas["EpisodeView"];
export type Edit = Schemas["EditRequest"]["edit"];
export type Job = Schemas["JobView"];
/** Whether a job waits or is being done. */
export const underWay = ({ state }: Job) => state === "queued" || state === "running";
export type PageData = Schemas["PageView"];
export type Word = Schemas["PlacedWord"];
export type Clip = PageData["clips"][number];
export type Splice = Schemas["SpliceView"];
export type Marker = Schemas["MarkerView"];
export type Recording = Schemas["Recording"];
export type Landing = Schemas["Landing"];
export type Snag = Schemas["SnagView"];
export type Snags = Schemas["SnagsView"];
export type Decision = Schemas["DecisionRequest"];
export type Levels = Schemas["LevelsView"];
export type Track = Schemas["TrackView"];
export type Chain = Track["chain"];
export type Band = NonNullable<Chain["bands"]>[number];
export type Tags = Schemas["Tags"];

export type Invitation = Schemas["Invitation"];

export { RATE } from "../measures";

/** A recording goes after what is there, unless the host says otherwise. */
export const AFTER: Landing = { at: null, replacing: 0, alongside: false, skip: 0, revision: null };

export const client = createClient<paths>();

/** What is known of a problem besides its sentence: the current revision if an edit was stale, the
 * piece that is wanted if one of a recording came out of its place, where it is put right and in
 * which episode. */
interface Known {
  revision?: number | null;
  wanted?: number | null;
  place?: Place | null;
  episode?: number;
}

export type Place = NonNullable<Schemas["JobView"]["place"]>;

/** A failed request: a sentence for the host, the status, and what else is known. */
export class Problem extends Error {
  constructor(
    sentence: string,
    readonly status: number,
    readonly known: Known = {},
  ) {
    super(sentence);
  }
}

/** The data of a response, or its problem thrown. */
export async function take<T>(
  answer: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<T> {
  const { data, error, response } = await answer.catch(() => {
    throw new Problem("Air Trim does not answer. Is it still running? Nothing was lost.", 0);
  });
  if (response.ok && (data !== undefined || response.status === 204)) return data as T;
  const { sentence, ...known } = (error ?? {}) as Known & { sentence?: string };
  throw new Problem(
    sentence ?? "That did not work, and nothing was changed.",
    response.status,
    known,
  );
}

/** A request whose body is bytes. */
export const takeBytes = <T>(
  method: "POST" | "PUT",
  path: string,
  body: BodyInit,
  headers?: HeadersInit,
): Promise<T> =>
  take<T>(
    fetch(path, { method, body, headers }).then(async (response) => {
      const said = await response.json().catch(() => undefined);
      return response.ok ? { data: said, response } : { error: said, response };
    }),
  );

/** The same for a body in JSON, where the address is only known while it runs. */
export const takeJson = <T>(method: "POST" | "PUT", path: string, body: unknown): Promise<T> =>
  takeBytes(method, path, JSON.stringify(body), { "Content-Type": "application/json" });
