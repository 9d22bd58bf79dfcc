/** The script or notes: written beforehand, read in large type while recording, the place kept. */

import { Box, Button, Flex, Text, Textarea } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import { useProvided } from "../../actions/provided";
import type { Episode } from "../../api/client";
import { useEdit, useScript } from "../../api/queries";
import { recallPlace, rememberPlace } from "../../record/remembered";
import { Ask } from "../../theme/Ask";
import { Card, Heading } from "../Panel";

const paragraphsOf = (text: string) =>
  text
    .split(/\n+/)
    .map((p) => p.trim())
    .filter(Boolean);

export function ScriptCard({ episode }: { episode: Episode }) {
  const { data } = useScript(episode.id, episode.revision);
  const text = data ?? "";
  const [open, setOpen] = useState(false);
  const words = text.trim() ? text.trim().split(/\s+/).length : 0;
  return (
    <>
      <Heading>Script or notes</Heading>
      <Card>
        <Text fontSize="13px" color="quiet" mb="2" lineClamp={2}>
          {words
            ? `${words} words: “${text.trim().slice(0, 90)}…”`
            : "Stands beside you in large type while you record, with your place kept."}
        </Text>
        <Button
          size="sm"
          variant="outline"
          disabled={data === undefined}
          onClick={() => setOpen(true)}
        >
          {words ? "Change it" : "Write or paste it"}
        </Button>
      </Card>
      {open && <Writing episode={episode} text={text} onClose={() => setOpen(false)} />}
    </>
  );
}

export function Writing({
  episode,
  text,
  onClose,
}: {
  episode: Episode;
  text: string;
  onClose: () => void;
}) {
  const edit = useEdit(episode.id);
  const [written, setWritten] = useState(text);
  const keep = () => {
    if (written !== text) edit.mutate({ kind: "set_script", text: written });
    onClose();
  };
  return (
    <Ask
      title="Script or notes"
      open
      size="lg"
      onClose={keep}
      cross
      foot={
        <Button colorPalette="pine" onClick={keep}>
          Keep it
        </Button>
      }
    >
      <Textarea
        aria-label="Script or notes"
        fontFamily="script"
        fontSize="18px"
        rows={14}
        maxLength={300_000}
        value={written}
        onChange={(event) => setWritten(event.target.value)}
      />
      <Text fontSize="13px" color="quiet" mt="2">
        One line is one step: while recording, ↓ goes on to the next. It is kept when you close
        this, and can be undone like any change.
      </Text>
    </Ask>
  );
}

/** The script in large type; nothing where there is none. ↓ and ↑, or a click, move the place. */
export function Reading({ episode }: { episode: Episode }) {
  const { data: text = "" } = useScript(episode.id, episode.revision);
  const paragraphs = paragraphsOf(text);
  const [at, setAt] = useState(() => recallPlace(episode.id));
  const here = useRef<HTMLParagraphElement>(null);
  const last = paragraphs.length - 1;
  const place = Math.min(at, Math.max(0, last));

  useEffect(() => {
    if (place >= 0) here.current?.scrollIntoView({ block: "center", behavior: "smooth" });
  }, [place]);
  const turn = (by: number) => {
    const next = Math.max(0, Math.min(last, place + by));
    rememberPlace(episode.id, next);
    setAt(next);
  };
  useProvided({ "script-on": () => turn(1), "script-back": () => turn(-1) });

  if (!paragraphs.length) return null;
  return (
    <Box
      flex="1.4"
      minH="0"
      overflowY="auto"
      px="6"
      py="3"
      borderBottomWidth="1px"
      borderColor="rule"
      data-testid="script"
    >
      {paragraphs.map((paragraph, i) => (
        <Flex
          // biome-ignore lint/suspicious/noArrayIndexKey: a paragraph is its place in the script
          key={i}
          gap="3"
          cursor="pointer"
          onClick={() => {
            setAt(i);
            rememberPlace(episode.id, i);
          }}
        >
          <Box w="4px" borderRadius="2px" bg={i === place ? "apricot" : "transparent"} my="2" />
          <Text
            ref={i === place ? here : undefined}
            aria-current={i === place ? "step" : undefined}
            fontFamily="script"
            fontSize="26px"
            lineHeight="1.4"
            py="1.5"
            color={i < place ? "quiet" : "ink"}
          >
            {paragraph}
          </Text>
        </Flex>
      ))}
    </Box>
  );
}
