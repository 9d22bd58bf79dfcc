/** Opening an episode that was packed on another machine. */
import { Button, Text } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { useJobs } from "../api/queries";
import { addEpisode, patchEpisode } from "../api/shelf";
import { send, useSending } from "../api/upload";
import { FilePick } from "../theme/FilePick";
import { ProgressBar } from "../theme/ProgressBar";
import { complain } from "../theme/toaster";

interface Props {
  show: number;
  /** What stands on the shelf has changed. */
  onDone: () => void;
}

/** The button, and how far it is. */
export function OpenPack({ show, onDone }: Props) {
  const [episode, setEpisode] = useState<number | null>(null);
  const open = async (file: File) => {
    const title = file.name.replace(/(\.airtrim)?\.zip$/i, "").slice(0, 200) || "Episode";
    try {
      const made = await addEpisode(show, title);
      setEpisode(made.id);
      await send(made.id, [file], complain, { pack: true });
    } catch (error) {
      complain(error);
    }
  };
  return (
    <>
      <FilePick accept=".zip" testId="open-pack" onPick={([file]) => file && void open(file)}>
        {(choose) => (
          <Button size="xs" variant="ghost" color="quiet" onClick={choose}>
            Open a packed episode
          </Button>
        )}
      </FilePick>
      {episode !== null && <Opening episode={episode} onDone={onDone} />}
    </>
  );
}

function Opening({ episode, onDone }: { episode: number; onDone: () => void }) {
  const sending = useSending((s) => s.list).find((one) => one.episode === episode);
  const { data: jobs } = useJobs(episode);
  const job = jobs?.find((one) => one.kind === "unpack");
  const state = job?.state ?? "queued";
  const ended = state !== "queued" && state !== "running";
  useEffect(() => {
    if (!ended) return;
    // An episode that did not open is not left standing there, empty.
    const settled = state === "done" ? Promise.resolve() : patchEpisode(episode, { deleted: true });
    settled.then(onDone, complain);
  }, [ended, state, episode, onDone]);
  if (ended) return null;
  return (
    <>
      <Text fontSize="12px" color="quiet">
        {job?.doing ?? "Sending"}
      </Text>
      <ProgressBar w="80px" value={job?.progress ?? sending?.done ?? 0} />
    </>
  );
}
