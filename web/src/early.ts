/**
 * What an open episode needs first is asked for while the rest of the interface still starts. It has
 * to be the first import of the application.
 */
import { QueryClient } from "@tanstack/react-query";
import { RATE } from "./api/client";
import { episodeOf } from "./api/episode";
import { keepStretches, stretchOf } from "./api/stretch";
import { linesAStretch } from "./page/data";
import { FIRST_SECONDS } from "./page/view";

export const queries = new QueryClient({
  defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: false } },
});
keepStretches(queries);

/** A failure is told by the one that asks again. */
const ignored = () => {};

const opened = /^\/episodes\/(\d+)/.exec(location.pathname)?.[1];
if (opened) {
  const id = Number(opened);
  void queries.fetchQuery(episodeOf(id)).then(({ revision, frames }) => {
    const first = linesAStretch(FIRST_SECONDS) * FIRST_SECONDS * RATE;
    if (frames) void queries.prefetchQuery(stretchOf(id, revision, 0, first));
  }, ignored);
  for (const font of ["400 17px 'Source Serif 4'", "14px 'Atkinson Hyperlegible'"]) {
    void document.fonts.load(font);
  }
}
