/** Which episodes a batch makes: those of the show that are ticked, and files that become some. */
import { Box, Button, Flex, IconButton, Text } from "@chakra-ui/react";
import { X } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import { useCatalogue } from "../api/batches";
import type { Schemas } from "../api/client";
import { useSetups } from "../api/setups";
import { Ticked } from "../stages/edit/Ticked";
import { ACCEPT } from "../stages/sound-files";
import { FilePick } from "../theme/FilePick";
import { Pick } from "../theme/Pick";
import { clock, figure, megabytes } from "../time";

const NOTHING = "";

/** What a batch mends; the rest is a matter of labels. */
const MENDED: ReadonlySet<string> = new Set(["loudness", "peaks"]);

interface Props {
  show: Schemas["ShowOnShelf"];
  chosen: ReadonlySet<number>;
  files: File[];
  setup: string;
  onChosen: (chosen: ReadonlySet<number>) => void;
  onFiles: (files: File[]) => void;
  onSetup: (setup: string) => void;
}

export function Chosen({ show, chosen, files, setup, onChosen, onFiles, onSetup }: Props) {
  const { data: setups = [] } = useSetups(show.id);
  const { data: catalogue } = useCatalogue(show.id);
  const [over, setOver] = useState(false);
  const filled = show.episodes.filter((one) => one.frames > 0 && !one.archived);
  const all = filled.length > 0 && filled.every((one) => chosen.has(one.id));
  const toggle = (id: number) => {
    const next = new Set(chosen);
    if (!next.delete(id)) next.add(id);
    onChosen(next);
  };
  const finished = new Map(catalogue?.episodes.map((one) => [one.episode_id, one]));
  const loud = filled
    .map((one) => one.id)
    .filter((id) => finished.get(id)?.findings.some(({ what }) => MENDED.has(what)));
  const add = (more: File[]) => onFiles([...files, ...more]);
  return (
    <Box
      p="1"
      m="-1"
      borderRadius="8px"
      outline={over ? "2px dashed" : "none"}
      outlineColor="pine.solid"
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(event) => {
        event.preventDefault();
        setOver(false);
        add([...event.dataTransfer.files]);
      }}
    >
      {filled.length > 0 && (
        <>
          <Ticked
            says="All episodes of this show"
            ticked={all}
            onToggle={() => onChosen(new Set(all ? [] : filled.map((one) => one.id)))}
          >
            <Text fontSize="13px" color="quiet" flex="1">
              {chosen.size} of {filled.length} with sound
            </Text>
            {loud.length > 0 && (
              <Button
                size="2xs"
                variant="outline"
                title="Those whose file is louder or softer than the show’s others, or too near to full level"
                onClick={() => onChosen(new Set(loud))}
              >
                Choose the {loud.length === 1 ? "one" : loud.length} that{" "}
                {loud.length === 1 ? "stands" : "stand"} out
              </Button>
            )}
          </Ticked>
          <Box maxH="232px" overflowY="auto" data-testid="to-choose">
            {filled.map((one) => (
              <Ticked
                key={one.id}
                says={one.title}
                ticked={chosen.has(one.id)}
                onToggle={() => toggle(one.id)}
              >
                <Box flex="1" minW="0">
                  <Text truncate>{one.title}</Text>
                  <StandsOut finished={finished.get(one.id)} />
                </Box>
                <Text fontSize="13px" color="quiet" whiteSpace="nowrap" alignSelf="start">
                  {finished.has(one.id) &&
                    `made at ${figure(finished.get(one.id)?.loudness_lufs, "LUFS")} · `}
                  {clock(one.frames, 0)}
                </Text>
              </Ticked>
            ))}
          </Box>
        </>
      )}
      {files.map((file, place) => (
        <Flex
          // biome-ignore lint/suspicious/noArrayIndexKey: a file may be chosen twice
          key={place}
          align="center"
          gap="2"
          py="1"
          borderBottomWidth="1px"
          borderColor="rule"
          data-testid="file-to-make"
        >
          <Text flex="1" minW="0" truncate>
            {file.name}
          </Text>
          <Text fontSize="13px" color="quiet" whiteSpace="nowrap">
            {megabytes(file.size)}
          </Text>
          <IconButton
            size="2xs"
            variant="ghost"
            color="quiet"
            aria-label={`Leave ${file.name} out`}
            onClick={() => onFiles(files.toSpliced(place, 1))}
          >
            <X size={13} />
          </IconButton>
        </Flex>
      ))}
      <Flex align="center" gap="2" mt="2" wrap="wrap">
        <FilePick accept={ACCEPT} testId="batch-files" several onPick={add}>
          {(open) => (
            <Button size="xs" variant="outline" onClick={open}>
              Add files
            </Button>
          )}
        </FilePick>
        {files.length > 0 && setups.length > 0 ? (
          <>
            <Text fontSize="13px" color="quiet">
              They begin from
            </Text>
            <Pick
              name="New episodes begin from"
              w="200px"
              value={setup}
              onPick={onSetup}
              options={[
                [NOTHING, "nothing"] as const,
                ...setups.map((one) => [String(one.id), one.name] as const),
              ]}
            />
          </>
        ) : (
          <Text fontSize="13px" color="quiet">
            Or drop them here. Each becomes an episode of its own.
          </Text>
        )}
      </Flex>
    </Box>
  );
}

/** What is not right with the last file of an episode, and where it is mended. */
function StandsOut({ finished }: { finished: Schemas["FinishedView"] | undefined }) {
  if (!finished?.findings.length) return null;
  const labels = finished.findings.some(({ what }) => !MENDED.has(what));
  return (
    <Text fontSize="12px" color="quiet">
      {finished.findings.map(({ what, sentence }) => (
        <Text as="span" key={what} color={MENDED.has(what) ? "trouble" : "quiet"}>
          {sentence}{" "}
        </Text>
      ))}
      {labels && (
        <Text asChild textDecoration="underline">
          <Link to={`/episodes/${finished.episode_id}/release`}>Its labels</Link>
        </Text>
      )}
    </Text>
  );
}
