/**
 * Asks for what an open episode shows first while all else of the interface is still on its way. It
 * is a script of its own, since a large one starts only when all of it is there.
 */
import type { Schemas } from "./api/client";
import {
  columnsOf,
  FIRST_SECONDS,
  linesAStretch,
  lineWidth,
  PANEL_PX,
  RATE,
  SPINE_PX,
} from "./measures";

declare global {
  interface Window {
    /** The episode that the address names, with what its Page shows first; null where it did not
     * come. */
    opening?: Promise<Schemas["ChangedView"] | null>;
  }
}

const id = /^\/episodes\/(\d+)(\/edit)?\/?$/.exec(location.pathname)?.[1];
if (id) {
  const lines = linesAStretch(FIRST_SECONDS);
  const columns = lines * columnsOf(lineWidth(innerWidth - SPINE_PX - PANEL_PX));
  const asked = `frames=${lines * FIRST_SECONDS * RATE}&columns=${columns}`;
  window.opening = fetch(`/api/episodes/${id}/opening?${asked}`).then(
    (answer) => (answer.ok ? answer.json() : null),
    () => null,
  );
}
