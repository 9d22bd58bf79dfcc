/** Recordings that were begun and not ended: go on, add, or set aside. */
import { Button, HStack, Text } from "@chakra-ui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { AFTER, client, type Episode, type Landing, type Recording, take } from "../../api/client";
import { keys, useUnfinished } from "../../api/queries";
import { MICROPHONE, openMicrophones } from "../../record/capture";
import { add, record } from "../../record/recorder";
import { isBeingMade } from "../../record/tape";
import { announce, complain } from "../../theme/toaster";
import { clock } from "../../time";
import { Card } from "../Panel";
import { told } from "./LandingChoice";
import type { Choice } from "./useMicrophones";

export function Unfinished({ episode, choice }: { episode: Episode; choice: Choice }) {
  const { data } = useUnfinished(episode.id);
  const { data: left } = useQuery({
    queryKey: ["left", ...(data ?? []).map((r) => r.id)],
    queryFn: async () => {
      const made = await Promise.all((data ?? []).map((r) => isBeingMade(r.id)));
      return (data ?? []).filter((_, i) => !made[i]);
    },
  });
  return left?.map((recording) => (
    <One key={recording.id} recording={recording} episode={episode} choice={choice} />
  ));
}

interface Props {
  recording: Recording;
  episode: Episode;
  choice: Choice;
}

function One({ recording, episode, choice }: Props) {
  const queries = useQueryClient();
  const again = () => queries.invalidateQueries({ queryKey: keys.unfinished(episode.id) });
  const tracks = recording.tracks.map((t) => `“${t}”`).join(" and ");
  const path = { recording_id: recording.id };
  const guest = recording.guest !== null && recording.guest !== undefined;
  const goOn = async () => {
    const microphones = recording.tracks.map((track, i) => ({
      ...MICROPHONE,
      ...choice.microphones[i],
      armed: true,
      track,
    }));
    await openMicrophones(microphones);
    const { landing } = recording;
    await record({
      episode: episode.id,
      landing,
      leadIn: "none",
      after: 0,
      along: false,
      left: recording,
    });
  };
  const put = (landing: Landing | null) =>
    void add(recording.id, landing).then(again).catch(complain);
  const setAside = async () => {
    try {
      await take(client.POST("/api/recordings/{recording_id}/discard", { params: { path } }));
      await again();
      announce("The recording was set aside.", () => {
        void take(
          client.POST("/api/recordings/{recording_id}/bring-back", { params: { path } }),
        ).then(again, complain);
      });
    } catch (error) {
      complain(error);
    }
  };
  return (
    <Card data-testid="unfinished">
      <Text fontWeight="700">
        {guest
          ? `${recording.tracks[0]}’s recording, ${clock(recording.frames)} so far, has not been added yet.`
          : `A recording of ${clock(recording.frames)} on ${tracks} was not ended.`}
      </Text>
      <Text fontSize="13px" color="quiet" mb="3">
        {guest
          ? `It is safe, and goes beside yours, in time with it. ${recording.whole === recording.pieces ? "All of it has come." : "More of it may still be on its way."}`
          : `It is safe. It was to go: ${told(recording.landing, recording.tracks)}`}
      </Text>
      <HStack gap="2">
        {!guest && (
          <Button size="sm" colorPalette="pine" onClick={() => void goOn().catch(complain)}>
            Go on recording
          </Button>
        )}
        <Button size="sm" variant="outline" onClick={() => put(null)}>
          Add it as it is
        </Button>
        {typeof recording.landing.at === "number" && (
          <Button size="sm" variant="outline" onClick={() => put(AFTER)}>
            Add it at the end
          </Button>
        )}
        <Button size="sm" variant="ghost" color="quiet" onClick={() => void setAside()}>
          Set it aside
        </Button>
      </HStack>
    </Card>
  );
}
