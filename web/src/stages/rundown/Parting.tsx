/** Places to part at: noted while listening, typed or proposed; heard; then parted in one step. */
import { Box, Button, Flex, IconButton, Text } from "@chakra-ui/react";
import { Play, X } from "lucide-react";
import { useState } from "react";
import { client, type Edit, type Episode, take, underWay } from "../../api/client";
import { type How, useJobs } from "../../api/queries";
import { play, position, positionRevision } from "../../playback/player";
import { TimeField } from "../../theme/fields/TimeField";
import { announce, complain } from "../../theme/toaster";
import { clock } from "../../time";
import { Made } from "../Made";

interface Props {
  episode: Episode;
  onEdit: (edit: Edit, how?: How) => void;
}

export function Parting({ episode, onEdit }: Props) {
  const places = episode.markers.filter((marker) => marker.kind === "part");
  const [looking, setLooking] = useState(false);
  const { data: jobs } = useJobs(episode.id);
  const at = { params: { path: { episode_id: episode.id } } };
  const propose = async () => {
    setLooking(true);
    try {
      const query = { revision: episode.revision };
      const path = { episode_id: episode.id };
      const found = await take(
        client.GET("/api/episodes/{episode_id}/places", { params: { path, query } }),
      );
      if (found.length) onEdit({ kind: "note_places", places: found.map((one) => one.at) });
      else announce("No other place stands out: no long pause, no change of speaker.");
    } catch (error) {
      complain(error);
    }
    setLooking(false);
  };
  const write = () =>
    void take(
      client.POST("/api/episodes/{episode_id}/parts", {
        ...at,
        body: { revision: episode.revision },
      }),
    ).catch(complain);
  const making = (jobs ?? []).findLast((job) => job.kind === "apart");
  const busy = making && underWay(making);
  const apart = () =>
    void take(
      client.POST("/api/episodes/{episode_id}/apart", {
        ...at,
        body: { revision: episode.revision },
      }),
    ).catch(complain);
  return (
    <Box mt="6" data-testid="parting">
      <Text as="h2" fontFamily="heading" fontWeight="700" fontSize="17px">
        Places to part at
      </Text>
      <Text fontSize="13px" color="quiet" mb="2">
        Note them while you listen (K), or have them proposed at long pauses and where somebody else
        goes on. Then part there in one step.
      </Text>
      <Flex gap="2" wrap="wrap" mb="2">
        {places.map((place) => (
          <Flex
            key={place.id}
            align="center"
            borderWidth="1px"
            borderColor="rule"
            rounded="8px"
            pl="1"
            data-place={place.at}
          >
            <IconButton
              size="2xs"
              variant="ghost"
              aria-label={`Listen from ${clock(place.at)}`}
              title="Listen from here"
              onClick={() => play(place.at)}
            >
              <Play size={12} />
            </IconButton>
            <TimeField
              label="Place to part at"
              at={place.at}
              digits={1}
              borderColor="transparent"
              onSet={(to) => onEdit({ kind: "change_marker", marker: place.id, at: to })}
            />
            <IconButton
              size="2xs"
              variant="ghost"
              color="quiet"
              aria-label={`Remove the place at ${clock(place.at)}`}
              onClick={() => onEdit({ kind: "remove_marker", marker: place.id })}
            >
              <X size={12} />
            </IconButton>
          </Flex>
        ))}
      </Flex>
      <Flex gap="2" wrap="wrap" align="center">
        <Button
          size="xs"
          variant="outline"
          title="Where you listen (K)"
          onClick={() =>
            onEdit(
              { kind: "note_places", places: [Math.round(position())] },
              { on: positionRevision() },
            )
          }
        >
          Note this place
        </Button>
        <Button size="xs" variant="outline" loading={looking} onClick={propose}>
          Propose places
        </Button>
        <Button
          size="xs"
          colorPalette="pine"
          disabled={!places.length}
          onClick={() => onEdit({ kind: "part_at_places" })}
        >
          {places.length > 1 ? `Part at all ${places.length}` : "Part there"}
        </Button>
        <Button
          size="xs"
          variant="outline"
          title="Numbered MP3 files, each on the target; the episode stays whole"
          disabled={episode.sections.length < 2}
          onClick={write}
        >
          Each part as a file
        </Button>
        <Button
          size="xs"
          variant="outline"
          title="Episodes of their own on the shelf; this one stays whole"
          disabled={episode.sections.length < 2}
          loading={Boolean(busy)}
          onClick={apart}
        >
          Each part an episode
        </Button>
        <Made job={(jobs ?? []).findLast((job) => job.kind === "parts")} />
      </Flex>
    </Box>
  );
}
