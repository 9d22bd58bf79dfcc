/** The frame of an open episode: header with stages, the stage itself, the transport. */
import { Box, Button, Flex, HStack, Spinner, Text } from "@chakra-ui/react";
import { Moon, Sun } from "lucide-react";
import { useEffect, useState } from "react";
import { Link, NavLink, useParams } from "react-router";
import { useEpisode, useStep } from "../api/queries";
import { open } from "../playback/player";
import { Transport } from "../playback/Transport";
import { EditStage } from "../stages/edit/EditStage";
import { LoudnessStage } from "../stages/loudness/LoudnessStage";
import { RecordStage } from "../stages/record/RecordStage";
import { ReleaseStage } from "../stages/release/ReleaseStage";
import { useMode } from "../theme/mode";
import { DropArea } from "./AddSound";
import { KeySheet } from "./KeySheet";
import { useKeys } from "./keys";

const STAGES = [
  { path: "record", name: "Record" },
  { path: "edit", name: "Edit" },
  { path: "loudness", name: "Loudness" },
  { path: "release", name: "Release" },
] as const;

export function EpisodeFrame() {
  const { episodeId, stage } = useParams();
  const id = Number(episodeId);
  const { data: episode, error } = useEpisode(id);
  const undo = useStep(id, "undo");
  const redo = useStep(id, "redo");
  const [sheet, setSheet] = useState(false);
  const { mode, toggle } = useMode();
  useKeys(episode, () => setSheet(true));

  useEffect(() => {
    if (episode) open(episode.id, episode.revision, episode.frames);
  }, [episode]);

  if (error && !episode) {
    return (
      <Flex h="100%" direction="column" align="center" justify="center" gap="4">
        <Text>{error.message}</Text>
        <Button asChild colorPalette="pine">
          <Link to="/">Back to the shelf</Link>
        </Button>
      </Flex>
    );
  }
  if (!episode) {
    return (
      <Flex h="100%" align="center" justify="center">
        <Spinner color="pine.solid" />
      </Flex>
    );
  }
  const stepping = undo.isPending || redo.isPending;
  return (
    <Flex direction="column" h="100%">
      <Flex
        as="header"
        h="52px"
        flexShrink="0"
        align="center"
        px="5"
        gap="4"
        borderBottomWidth="1px"
        borderColor="rule"
      >
        <HStack flex="1" minW="0" gap="3" align="baseline">
          <Link to="/" title="Back to the shelf">
            <Text fontFamily="heading" fontWeight="700" fontSize="18px" whiteSpace="nowrap">
              {episode.show}
            </Text>
          </Link>
          <Text color="quiet" truncate>
            {episode.tags.episode ? `Episode ${episode.tags.episode} · ` : ""}
            {episode.title}
          </Text>
        </HStack>
        <HStack as="nav" gap="1" aria-label="Stages">
          {STAGES.map((s) => (
            <NavLink key={s.path} to={`/episodes/${id}/${s.path}`}>
              {({ isActive }) => (
                <Box
                  px="14px"
                  py="5px"
                  rounded="full"
                  bg={isActive ? "pine.solid" : undefined}
                  color={isActive ? "pine.contrast" : "ink"}
                  fontWeight={isActive ? "700" : "400"}
                  _hover={isActive ? undefined : { bg: "wash" }}
                >
                  {s.name}
                </Box>
              )}
            </NavLink>
          ))}
        </HStack>
        <HStack flex="1" justify="flex-end" gap="1">
          <Button
            size="sm"
            variant="ghost"
            disabled={!episode.undo || stepping}
            title={episode.undo ? `Undo: ${episode.undo} (Ctrl+Z)` : "Nothing to undo"}
            onClick={() => undo.mutate(undefined)}
          >
            Undo
          </Button>
          <Button
            size="sm"
            variant="ghost"
            disabled={!episode.redo || stepping}
            title={episode.redo ? `Redo: ${episode.redo} (Ctrl+Shift+Z)` : "Nothing to redo"}
            onClick={() => redo.mutate(undefined)}
          >
            Redo
          </Button>
          <Button
            size="sm"
            variant="ghost"
            px="2"
            aria-label={mode === "light" ? "Dark colours" : "Light colours"}
            title={mode === "light" ? "Dark colours" : "Light colours"}
            onClick={toggle}
          >
            {mode === "light" ? <Moon size={16} /> : <Sun size={16} />}
          </Button>
          <Button size="sm" variant="ghost" px="2" title="Keys (?)" onClick={() => setSheet(true)}>
            ?
          </Button>
        </HStack>
      </Flex>
      <DropArea episode={id}>
        {stage === "record" ? (
          <RecordStage episode={episode} />
        ) : stage === "loudness" ? (
          <LoudnessStage episode={episode} />
        ) : stage === "release" ? (
          <ReleaseStage episode={episode} />
        ) : (
          <EditStage episode={episode} />
        )}
      </DropArea>
      <Transport episode={episode} zoomable={stage === "edit" || !stage} />
      <KeySheet open={sheet} onClose={() => setSheet(false)} />
    </Flex>
  );
}
