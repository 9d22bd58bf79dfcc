/** The address of an episode, put right where it names no stage: the Page is meant. */
import { Navigate, useParams } from "react-router";
import { PAGE, STAGES } from "../stages";
import { EpisodeFrame } from "./EpisodeFrame";

export function Opened() {
  const { episodeId = "", stage } = useParams();
  const found = STAGES.find(({ path }) => path === stage);
  if (!/^\d+$/.test(episodeId)) return <Navigate to="/" replace />;
  if (!found) {
    return <Navigate to={`/episodes/${episodeId}/${PAGE.path}${location.search}`} replace />;
  }
  return <EpisodeFrame id={Number(episodeId)} stage={found} />;
}
