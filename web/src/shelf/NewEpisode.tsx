/** A new episode: from a setup of the show, or with nothing in it. */
import { useState } from "react";
import { useNavigate } from "react-router";
import type { Schemas } from "../api/client";
import { useBegin, useSetups } from "../api/setups";
import { addEpisode } from "../api/shelf";
import { Pick } from "../theme/Pick";
import { announce, complain } from "../theme/toaster";
import { NameForm } from "./NameForm";

const NOTHING = "";

interface Props {
  show: Schemas["ShowOnShelf"];
  onCancel: () => void;
}

export function NewEpisode({ show, onCancel }: Props) {
  const { data: setups } = useSetups(show.id);
  const [chosen, setChosen] = useState<string | null>(null);
  const begin = useBegin(show.id);
  const go = useNavigate();
  if (!setups) return null;
  // What was used last is meant, until something else is said.
  const setup = chosen ?? String(setups[0]?.id ?? NOTHING);
  const next = 1 + Math.max(0, ...show.episodes.map((one) => one.number ?? 0));
  const make = async (title: string) => {
    try {
      if (setup === NOTHING) {
        const made = await addEpisode(show.id, title);
        go(`/episodes/${made.id}/edit`);
        return;
      }
      const { episode, missing } = await begin.mutateAsync({ id: Number(setup), title });
      if (missing.length) {
        announce(`Gone from the shelf, so it is without: ${missing.join(", ")}.`);
      }
      go(`/episodes/${episode.id}/rundown`);
    } catch (error) {
      if (setup === NOTHING) complain(error); // a setup has told of its own
    }
  };
  return (
    <NameForm
      label="Title of the episode"
      action="Create"
      optional={setup !== NOTHING}
      placeholder={setup === NOTHING ? "Title of the episode" : `Title, or “Episode ${next}”`}
      onSet={(title) => void make(title)}
      onCancel={onCancel}
    >
      {setups.length > 0 && (
        <Pick
          name="Begin from"
          size="sm"
          w="260px"
          value={setup}
          onPick={setChosen}
          options={[
            ...setups.map((one) => [String(one.id), one.name] as const),
            [NOTHING, "Nothing: a blank episode"],
          ]}
        />
      )}
    </NameForm>
  );
}
