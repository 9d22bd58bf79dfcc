/** Edit: the Page, and beside it what is selected, the tracks, what is looked for, what was done. */
import { Box, Flex, HStack, Text } from "@chakra-ui/react";
import { type KeyboardEvent, memo, useDeferredValue } from "react";
import { flushSync } from "react-dom";
import type { Context } from "../../actions/action";
import type { Episode } from "../../api/client";
import { Page } from "../../page/Page";
import { PageMenu } from "../../page/PageMenu";
import { useView } from "../../view/view";
import { AddButton } from "../AddSound";
import { Panel } from "../Panel";
import { Find } from "./Find";
import { History } from "./History";
import { Marks } from "./Marks";
import { Recordings } from "./Recordings";
import { Selected } from "./Selected";
import { Snags } from "./snags/Snags";
import { Tracks } from "./Tracks";

export const EditStage = memo(function EditStage({ context }: { context: Context }) {
  const { episode } = context;
  const before = useView((v) => v.before);
  const standing = useView((v) => v.standing);
  const calm = useDeferredValue(standing ? context : null);
  if (episode.frames === 0) return <Empty episode={episode} />;
  return (
    <Flex flex="1" minH="0" position="relative">
      <PageMenu context={context}>
        <Flex flex="1" minW="0" minH="0" direction="column">
          <Notices />
          {before && (
            <Text px="5" py="1.5" bg="mark" fontSize="13px" data-testid="before">
              Before: “{episode.undo}”. Let go of the key to come back.
            </Text>
          )}
          <Page id={episode.id} />
        </Flex>
      </PageMenu>
      <Beside context={calm} />
    </Flex>
  );
});

/** The panel follows the Page a moment later, so that what was done is seen at once. */
const Beside = memo(function Beside({ context }: { context: Context | null }) {
  // What is selected is the snag itself, and its own card says what can be done with it.
  const deciding = useView((v) => {
    if (v.panel !== "Snags") return false;
    if (v.reviewing) return true;
    const snag = v.snags.find((s) => s.id === v.snag);
    return (
      snag && v.selection?.start === snag.start && v.selection.end === snag.start + snag.frames
    );
  });
  return (
    <Panel>
      {context && (
        <>
          {!deciding && <Selected context={context} />}
          <More context={context} />
        </>
      )}
    </Panel>
  );
});

/** What the Page is waiting for. */
function Notices() {
  const carrying = useView((v) => v.carrying);
  if (!carrying) return null;
  return (
    <Text px="5" py="1.5" bg="mark" fontSize="13px" role="status">
      Click where it is to go, or place the playhead there and press G. Esc leaves it where it is.
    </Text>
  );
}

const TABS = { Snags, Tracks, Find, Marks, History: Done, Takes } as const;

function Done({ context }: { context: Context }) {
  return <History episode={context.episode} />;
}

function Takes({ context }: { context: Context }) {
  return <Recordings episode={context.episode} />;
}

/** Tabs of our own: what is chosen by key has to be there at once, to be typed into. */
function More({ context }: { context: Context }) {
  const chosen = useView((v) => v.panel);
  const step = (event: KeyboardEvent) => {
    const by = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
    if (!by) return;
    event.preventDefault();
    const names = Object.keys(TABS);
    const next = names[(names.indexOf(chosen) + by + names.length) % names.length];
    flushSync(() => useView.setState({ panel: next }));
    document.getElementById(`tab-${next}`)?.focus();
  };
  return (
    <>
      <HStack
        role="tablist"
        aria-label="Beside the Page"
        gap="0"
        mb="2"
        borderBottomWidth="1px"
        borderColor="rule"
        onKeyDown={step}
      >
        {Object.keys(TABS).map((name) => (
          <Box
            key={name}
            as="button"
            role="tab"
            id={`tab-${name}`}
            aria-selected={chosen === name}
            aria-controls={`panel-${name}`}
            tabIndex={chosen === name ? 0 : -1}
            flex="1"
            px="0.5"
            py="1.5"
            mb="-1px"
            fontSize="13px"
            fontWeight={chosen === name ? "700" : "400"}
            borderBottomWidth="2px"
            borderColor={chosen === name ? "pine.solid" : "transparent"}
            onClick={() => useView.setState({ panel: name })}
          >
            {name}
          </Box>
        ))}
      </HStack>
      {Object.entries(TABS).map(([name, Content]) => (
        <Box
          key={name}
          role="tabpanel"
          id={`panel-${name}`}
          aria-labelledby={`tab-${name}`}
          hidden={chosen !== name}
        >
          <Content context={context} />
        </Box>
      ))}
    </>
  );
}

function Empty({ episode }: { episode: Episode }) {
  const cutAway = episode.cuts > 0;
  return (
    <Flex flex="1" direction="column" align="center" justify="center" gap="3" px="8">
      <Text fontFamily="heading" fontSize="26px" fontWeight="700">
        {cutAway ? "Everything has been cut" : "This Page is still blank"}
      </Text>
      <Text color="quiet" maxW="440px" textAlign="center">
        {cutAway
          ? "Undo brings it back. Or add another recording."
          : "Drop a recording here, or choose one. Air Trim draws its sound, writes its words under it, and never changes the file you gave it."}
      </Text>
      <AddButton episode={episode.id} main />
      <Box fontSize="13px" color="quiet">
        WAV, FLAC, MP3, M4A, OGG, Opus or AIFF, mono or stereo
      </Box>
    </Flex>
  );
}
