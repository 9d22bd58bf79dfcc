/** How far an episode is along the order of the work. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { client, type Episode, take } from "../api/client";
import { useView } from "../view/view";

/** It is asked for when edits have come to rest: it counts snags, and follows the Page. */
const SETTLED_MS = 1500;

/** ``page``: it stands above the Page, which comes first. */
export function useStanding(episode: Episode, page: boolean) {
  const shown = useView((v) => v.standing || !page);
  const blank = episode.frames === 0;
  const [settled, setSettled] = useState<number | null>(null);
  useEffect(() => {
    if ((!shown && !blank) || settled === episode.revision) return;
    const atOnce = blank || settled === null;
    const timer = setTimeout(() => setSettled(episode.revision), atOnce ? 0 : SETTLED_MS);
    return () => clearTimeout(timer);
  }, [episode.revision, shown, blank, settled]);
  return useQuery({
    queryKey: ["standing", episode.id, settled],
    enabled: settled !== null,
    placeholderData: keepPreviousData,
    queryFn: () =>
      take(
        client.GET("/api/episodes/{episode_id}/standing", {
          params: { path: { episode_id: episode.id }, query: { revision: settled ?? 0 } },
        }),
      ),
  });
}
