/** Tidying: a whole pass, told before it is made, and made in one step. */
import { Button, Flex, Text } from "@chakra-ui/react";
import { useState } from "react";
import type { Kinds } from "../../../actions/deciding";
import type { Episode, Snags } from "../../../api/client";
import { useTidy } from "../../../api/queries";
import { Ask } from "../../../theme/Ask";
import { announce } from "../../../theme/toaster";
import { clock, seconds } from "../../../time";
import { useView } from "../../../view/view";

type Pass = Snags["tidy"][number];

const ABOUT: Record<Pass["how"], string> = {
  gentle:
    "Fillers, first attempts and knocks go; pauses over 1.5 s come down to 0.8 s. Every breath stays.",
  close:
    "Every filler, first attempt and noise goes; pauses over 1 s come down to 0.5 s. Breaths that stand out are covered, soft ones stay.",
};

interface Props {
  episode: Episode;
  tidy: Pass;
  kinds: Kinds;
}

export function TidyButton({ episode, tidy, kinds }: Props) {
  const [open, setOpen] = useState(false);
  const pass = useTidy(episode.id);
  const settles = kinds.flatMap(({ kind, one, many }) => {
    const count = tidy.counts[kind];
    return count ? [`${count} ${count === 1 ? one : many}`] : [];
  });
  const nothing = !settles.length && !tidy.pauses;
  const name = tidy.how === "gentle" ? "Tidy gently" : "Tidy closely";
  return (
    <>
      <Button size="xs" flex="1" variant="outline" disabled={nothing} onClick={() => setOpen(true)}>
        {name}
      </Button>
      <Ask
        title={name}
        open={open}
        onClose={() => setOpen(false)}
        foot={
          <>
            <Button variant="outline" onClick={() => setOpen(false)}>
              Cancel
            </Button>
            <Button
              colorPalette="pine"
              loading={pass.isPending}
              onClick={() =>
                pass.mutate(tidy.how, {
                  done: () => {
                    useView.setState({ snag: null });
                    useView.getState().select(null);
                    setOpen(false);
                    announce(`${tidy.how === "gentle" ? "Tidied gently" : "Tidied closely"}.`);
                  },
                  settled: () => setOpen(false),
                })
              }
            >
              {name}
            </Button>
          </>
        }
      >
        <Text color="quiet" fontSize="14px">
          {ABOUT[tidy.how]}
        </Text>
        <Flex my="3" gap="3" align="baseline" data-testid="lengths">
          <Text fontSize="22px" fontFamily="heading">
            {clock(episode.frames)}
          </Text>
          <Text color="quiet">becomes</Text>
          <Text fontSize="22px" fontFamily="heading" fontWeight="700">
            {clock(tidy.frames)}
          </Text>
          <Text color="quiet">{seconds(episode.frames - tidy.frames)} shorter</Text>
        </Flex>
        <Text fontSize="14px">
          {[
            ...settles,
            ...(tidy.pauses ? [tidy.pauses === 1 ? "1 pause" : `${tidy.pauses} pauses`] : []),
          ].join(" · ")}
        </Text>
        <Text fontSize="13px" color="quiet" mt="2">
          It is one step: undo takes all of it back, and each cut can be opened by itself.
        </Text>
      </Ask>
    </>
  );
}
