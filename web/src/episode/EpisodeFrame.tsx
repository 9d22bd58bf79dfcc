/** The frame of an open episode: header with stages, the stage itself, the transport. */
import { Box, Button, Flex, HStack, Spinner, Text } from "@chakra-ui/react";
import { useIsMutating } from "@tanstack/react-query";
import {
  lazy,
  memo,
  Suspense,
  useCallback,
  useDeferredValue,
  useEffect,
  useLayoutEffect,
  useRef,
  useState,
} from "react";
import { Link, NavLink, useSearchParams } from "react-router";
import type { Context } from "../actions/action";
import { ahead } from "../actions/ahead";
import { useContext, useKeys } from "../actions/keys";
import { changes } from "../api/changes";
import type { Episode } from "../api/client";
import { useEpisode, useStep } from "../api/queries";
import { open, place } from "../playback/player";
import { STAGES, type Stage } from "../stages";
import { DropArea } from "../stages/AddSound";
import { ModeButton } from "../theme/ModeButton";
import { TopBar } from "../theme/TopBar";
import { useView } from "../view/view";
import { NextLine } from "./NextLine";
import { Said } from "./Said";
import { StaleDialog } from "./StaleDialog";
import { Told } from "./Told";
import { Transport, TransportSpace } from "./Transport";
import { Walk } from "./Walk";

const loadKeySheet = () => import("./KeySheet");
const KeySheet = lazy(() => loadKeySheet().then((m) => ({ default: m.KeySheet })));
const loadPalette = () => import("./Palette");
const Palette = lazy(() => loadPalette().then((m) => ({ default: m.Palette })));
const REST_AFTER_MS = 2500;

/** Once the Page stands, which comes first, what else there is is fetched. */
const LATER = [...STAGES.flatMap(({ load }) => load ?? []), loadKeySheet, loadPalette];

export function EpisodeFrame({ id, stage }: { id: number; stage: Stage }) {
  const { data: episode, error } = useEpisode(id);
  // What frames the Page follows a moment later, so that what was done is seen on it at once.
  const calm = useDeferredValue(episode);
  const [sheet, setSheet] = useState<"keys" | "actions" | null>(null);
  const close = useCallback(() => setSheet(null), []);
  const show = useCallback((asked: "keys" | "actions") => {
    // What is typed before the field of the palette has the focus belongs to the palette.
    if (asked === "actions") ahead.start();
    setSheet(asked);
  }, []);
  const context = useContext(episode, show);
  const calmContext = useDeferredValue(context) ?? context;
  const { path, Shown, page } = stage;
  const standing = useView((v) => v.standing);
  useKeys(context, path);

  useEffect(() => {
    const timer = setTimeout(() => {
      for (const load of LATER) load().catch(() => {}); // tried again when it is gone to
    }, REST_AFTER_MS);
    return () => clearTimeout(timer);
  }, []);

  // Before the browser paints: from then on the host sees this revision.
  useLayoutEffect(() => {
    if (!episode) return;
    open(episode.id, episode.revision, episode.frames);
    changes.show(episode.id, episode.revision);
  }, [episode]);

  // Whoever comes from a search is brought to what was found.
  const [search] = useSearchParams();
  const wanted = useRef(Number(search.get("at")));
  const opened = episode !== undefined;
  useEffect(() => {
    if (!opened) return;
    if (wanted.current > 0) place(wanted.current);
    wanted.current = 0;
  }, [opened]);

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
  const around = calm ?? episode;
  return (
    <Flex direction="column" h="100%" data-revision={around.revision}>
      <Header episode={around} show={show} />
      <NextLine key={around.id} episode={around} page={page === true} />
      <Walk episode={around} page={page === true} />
      <Told episode={episode} />
      <Said key={`said ${around.id}`} episode={around} />
      <DropArea episode={around}>
        <Suspense fallback={<Box flex="1" />}>
          {context && calmContext && <Shown context={page ? calmContext : context} />}
        </Suspense>
      </DropArea>
      {standing || !page || around.frames === 0 ? (
        <Transport episode={around} zoomable={page === true} />
      ) : (
        <TransportSpace />
      )}
      <StaleDialog />
      <Changing />
      <Suspense>
        {sheet === "keys" && <KeySheet open onClose={close} episode={episode.id} />}
        {sheet === "actions" && context && (
          <Palette context={context} stage={path} onClose={close} />
        )}
      </Suspense>
    </Flex>
  );
}

/** Present while a change is on its way to the server. */
const Changing = () => (useIsMutating() ? <span hidden data-changing="" /> : null);

const Header = memo(function Header({
  episode,
  show,
}: {
  episode: Episode;
  show: Context["show"];
}) {
  const undo = useStep(episode.id, "undo");
  const redo = useStep(episode.id, "redo");
  const stepping = undo.isPending || redo.isPending;
  return (
    <TopBar gap="4">
      <HStack flex="1" minW="0" gap="3" align="baseline">
        <Link to="/" title="Back to the shelf">
          <Text fontFamily="heading" fontWeight="700" fontSize="18px" whiteSpace="nowrap">
            {episode.show}
          </Text>
        </Link>
        <Text as="h1" color="quiet" truncate>
          {episode.tags.episode && episode.title !== `Episode ${episode.tags.episode}`
            ? `Episode ${episode.tags.episode} · `
            : ""}
          {episode.title}
        </Text>
      </HStack>
      <HStack as="nav" gap="1" aria-label="Stages">
        {STAGES.map((s) => (
          <NavLink key={s.path} to={`/episodes/${episode.id}/${s.path}`}>
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
        <ModeButton />
        <Button size="sm" variant="ghost" px="2" title="Keys (?)" onClick={() => show("keys")}>
          ?
        </Button>
      </HStack>
    </TopBar>
  );
});
