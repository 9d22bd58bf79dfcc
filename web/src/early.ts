/**
 * What the address asks for goes to where the interface will look for it. It has to be the first
 * import of the application.
 */
import { notifyManager } from "@tanstack/react-query";
import { Queries } from "./api/again";
import { Problem } from "./api/client";
import { noteContent } from "./api/content";
import { episodeOf } from "./api/episode";
import { keepStretches, putStretch } from "./api/stretch";

/** Asked once more is what may go otherwise then: no answer, or a fault; not what was refused. */
const again = (failures: number, error: Error) =>
  failures < 1 && !(error instanceof Problem && error.status >= 400 && error.status < 500);

export const queries = new Queries({
  defaultOptions: {
    // The server runs on this machine: without Wi-Fi it still answers.
    queries: { retry: again, refetchOnWindowFocus: false, networkMode: "always" },
    mutations: { networkMode: "always" },
  },
});
keepStretches(queries);
// What has come is told at once, not when a timer fires.
notifyManager.setScheduler(queueMicrotask);

const opened = /^\/episodes\/(\d+)/.exec(location.pathname)?.[1];
if (opened) {
  const asked = episodeOf(Number(opened));
  const known = async () => {
    const first = await window.opening;
    if (!first) return asked.queryFn();
    const { stretches, marks: _, ...episode } = first;
    noteContent(episode);
    for (const stretch of stretches) putStretch(queries, episode.id, stretch);
    return episode;
  };
  void queries.prefetchQuery({ ...asked, queryFn: known });
  for (const font of ["400 17px 'Source Serif 4'", "14px 'Atkinson Hyperlegible'"]) {
    void document.fonts.load(font);
  }
}
