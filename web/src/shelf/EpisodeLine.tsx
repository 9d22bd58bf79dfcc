/** An episode as the shelf lists it. */
import { Box, Flex, HStack, Text } from "@chakra-ui/react";
import { AudioLines } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import { client, type Schemas, take } from "../api/client";
import { patchEpisode } from "../api/shelf";
import { announce } from "../theme/toaster";
import { clock, dayOf } from "../time";
import { useCarry } from "./carry";
import { NameForm } from "./NameForm";
import { Quiet } from "./Quiet";

export type EpisodeItem = Schemas["EpisodeOnShelf"];

export function EpisodeLine({ episode }: { episode: EpisodeItem }) {
  const [renaming, setRenaming] = useState(false);
  const carry = useCarry();
  const remove = async () => {
    if (await carry(patchEpisode(episode.id, { deleted: true }))) {
      announce(
        `“${episode.title}” was deleted.`,
        () => void carry(patchEpisode(episode.id, { deleted: false })),
      );
    }
  };
  const archive = async () => {
    if (await carry(patchEpisode(episode.id, { archived: !episode.archived }))) {
      announce(
        episode.archived ? `“${episode.title}” is back.` : `“${episode.title}” was archived.`,
        () => void carry(patchEpisode(episode.id, { archived: episode.archived })),
      );
    }
  };
  const copy = async () => {
    const path = { episode_id: episode.id };
    const made = await carry(
      take(client.POST("/api/episodes/{episode_id}/copy", { params: { path } })),
    );
    if (made) {
      announce(
        `“${made.title}” was made.`,
        () => void carry(patchEpisode(made.id, { deleted: true })),
      );
    }
  };
  if (renaming) {
    return (
      <Box py="2.5">
        <NameForm
          label="Title of the episode"
          action="Rename"
          initial={episode.title}
          onSet={async (name) => {
            if (await carry(patchEpisode(episode.id, { name }))) {
              setRenaming(false);
              announce(
                `Renamed to “${name}”.`,
                () => void carry(patchEpisode(episode.id, { name: episode.title })),
              );
            }
          }}
          onCancel={() => setRenaming(false)}
        />
      </Box>
    );
  }
  return (
    <Flex
      align="center"
      py="3"
      gap="4"
      borderBottomWidth="1px"
      borderColor="rule"
      _hover={{ bg: "wash" }}
      data-testid="episode"
    >
      <Flex asChild flex="1" minW="0" align="center" gap="4">
        <Link to={`/episodes/${episode.id}/edit`}>
          <Cover artwork={episode.artwork} />
          <Box minW="0">
            <Text fontFamily="script" fontSize="18px" lineHeight="1.3" truncate>
              {episode.title}
            </Text>
            <Text color="quiet" fontSize="13px" truncate>
              {numbered(episode)}
              {episode.frames > 0 && `${clock(episode.frames)} · `}
              {episode.trimmed > 0 && `${clock(episode.trimmed)} trimmed · `}
              <Text as="span" color="ink">
                {episode.standing}
              </Text>
            </Text>
          </Box>
        </Link>
      </Flex>
      <Text color="quiet" fontSize="13px" whiteSpace="nowrap">
        {dayOf(episode.updated_at)}
      </Text>
      <HStack gap="0">
        <Quiet onClick={copy}>Copy</Quiet>
        <Quiet onClick={() => setRenaming(true)}>Rename</Quiet>
        <Quiet onClick={archive}>{episode.archived ? "Bring back" : "Archive"}</Quiet>
        <Quiet onClick={remove}>Delete</Quiet>
      </HStack>
    </Flex>
  );
}

const numbered = ({ season, number }: EpisodeItem) =>
  [season && `Season ${season} · `, number && `Episode ${number} · `].filter(Boolean).join("");

function Cover({ artwork }: { artwork: string | null }) {
  return (
    <Flex
      w="56px"
      h="56px"
      flexShrink="0"
      align="center"
      justify="center"
      bg="wash"
      color="quiet"
      borderRadius="6px"
      overflow="hidden"
    >
      {artwork ? (
        <img src={`/api/artwork/${artwork}`} alt="" width={56} height={56} loading="lazy" />
      ) : (
        <AudioLines size={22} aria-hidden="true" />
      )}
    </Flex>
  );
}
