/** What files to make: several at once, from one render. */
import { Box, Button, Checkbox, Flex, Text } from "@chakra-ui/react";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, type Episode, type Schemas, take, underWay } from "../../api/client";
import { useJobs } from "../../api/queries";
import { Figure, Meaning } from "../../theme/Meaning";
import { LabelledPick } from "../../theme/Pick";
import { complain } from "../../theme/toaster";
import { clock, megabytes } from "../../time";
import { Card, Heading } from "../Panel";

type Format = Schemas["FormatView"];
type TagVersion = "2.3" | "2.4";

const TAG_VERSIONS: [TagVersion, string][] = [
  ["2.3", "ID3v2.3, read everywhere"],
  ["2.4", "ID3v2.4, current"],
];

/** What its label says that its words do not: “MP3, 96”, or the rate alone. */
const beyond = ({ words, label }: Format) =>
  label
    .replace(words, "")
    .replace(" kbit/s", "")
    .replace(/^[,\s]+/, "");

export function Export({ episode }: { episode: Episode }) {
  const [wanted, setWanted] = useState<readonly string[] | null>(null);
  const [allRates, setAllRates] = useState(false);
  const [version, setVersion] = useState<TagVersion>("2.3");
  const { data: jobs } = useJobs(episode.id);
  const exports = (jobs ?? []).filter((job) => job.kind === "export");
  const running = exports.find(underWay);
  const { data: formats = [] } = useQuery({
    queryKey: ["formats", episode.id, episode.revision],
    placeholderData: keepPreviousData,
    queryFn: () =>
      take(
        client.GET("/api/episodes/{episode_id}/formats", {
          params: { path: { episode_id: episode.id } },
        }),
      ),
  });
  const [despite, setDespite] = useState(false);
  const damaged = episode.takes.some((one) => one.damaged);
  const chosen = formats.filter((one) => (wanted ? wanted.includes(one.label) : one.usual));
  const shown = formats.filter((one) => allRates || one.words || chosen.includes(one));
  const choose = (one: Format, on: boolean) => {
    const now = chosen.map(({ label }) => label);
    setWanted(on ? [...now, one.label] : now.filter((label) => label !== one.label));
  };
  const start = () =>
    take(
      client.POST("/api/episodes/{episode_id}/exports", {
        params: { path: { episode_id: episode.id } },
        body: {
          revision: episode.revision,
          files: chosen.map(({ format, kbits }) => ({ format, kbits, id3_version: version })),
          despite_damage: despite && damaged,
        },
      }),
    ).catch(complain);
  const bytes = chosen.reduce((sum, one) => sum + one.bytes, 0);
  return (
    <>
      <Heading>Make files</Heading>
      <Card>
        {shown.map((one) => (
          <Checkbox.Root
            key={one.label}
            size="sm"
            display="flex"
            w="100%"
            py="1"
            checked={chosen.includes(one)}
            onCheckedChange={({ checked }) => choose(one, checked === true)}
          >
            <Checkbox.HiddenInput />
            <Checkbox.Control />
            <Checkbox.Label flex="1" fontSize="13px">
              <Flex>
                <Box flex="1">
                  {one.words || one.label}
                  {one.words && (
                    <Text as="span" color="quiet">
                      {" "}
                      · {beyond(one)}
                    </Text>
                  )}
                </Box>
                <Text color="quiet">{megabytes(one.bytes)}</Text>
              </Flex>
            </Checkbox.Label>
          </Checkbox.Root>
        ))}
        <Flex align="center" gap="2" fontSize="12px" color="quiet">
          <Button size="xs" variant="ghost" color="quiet" onClick={() => setAllRates(!allRates)}>
            {allRates ? "Fewer rates" : "All rates"}
          </Button>
          <Meaning of="kbit/s">Which rate?</Meaning>
        </Flex>
        {chosen.some(({ format }) => format === "mp3" || format === "wav") && (
          <LabelledPick
            name="Tag version"
            value={version}
            onPick={setVersion}
            options={TAG_VERSIONS}
          />
        )}
        <Text mt="3" fontSize="13px" color="quiet">
          {episode.loudness.layout === "mono" ? "Mono" : "Stereo"} · {clock(episode.frames)} · about{" "}
          {megabytes(bytes)}
        </Text>
        <Text fontSize="13px" color="quiet">
          Goes to <Figure value={episode.loudness.target} unit="LUFS" />, at most{" "}
          <Figure value={episode.loudness.ceiling_dbtp} unit="dBTP" />
        </Text>
        {damaged && (
          <Checkbox.Root
            mt="3"
            size="sm"
            checked={despite}
            onCheckedChange={({ checked }) => setDespite(checked === true)}
          >
            <Checkbox.HiddenInput />
            <Checkbox.Control />
            <Checkbox.Label fontSize="13px" color="trouble">
              A recording is damaged. Export all the same, silent where it cannot be read
            </Checkbox.Label>
          </Checkbox.Root>
        )}
        <Button
          mt="3"
          w="100%"
          size="sm"
          colorPalette="pine"
          disabled={episode.frames === 0 || !chosen.length || Boolean(running)}
          onClick={start}
        >
          {chosen.length > 1 ? `Make ${chosen.length} files` : "Make the file"}
        </Button>
      </Card>
    </>
  );
}
