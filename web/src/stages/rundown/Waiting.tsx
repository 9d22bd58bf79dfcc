/** Parts of the setup that wait for their talk, and the sounds that come with them. */
import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { useState } from "react";
import { Link } from "react-router";
import type { Edit, Episode, Schemas } from "../../api/client";
import { Pick } from "../../theme/Pick";
import type { Row } from "./parts";
import { HOLDS } from "./sounds";

type Waits = Schemas["WaitingView"];

interface Props {
  episode: Episode;
  waiting: readonly Waits[];
  rows: readonly Row[];
  onEdit: (edit: Edit) => void;
}

const NONE = "";

export function Waiting({ episode, waiting, rows, onEdit }: Props) {
  const [chosen, setChosen] = useState<Record<string, string>>({});
  if (!waiting.length) return null;
  const partOf = ({ row, part }: Waits) => {
    const here = chosen[row.id] ?? part ?? NONE;
    return rows.some((one) => one.id === here) ? here : NONE;
  };
  const fills = waiting
    .map((one) => ({ row: one.row.id, section: partOf(one) }))
    .filter((fill) => fill.section !== NONE);
  const empty = episode.frames === 0;
  return (
    <Box mt={empty ? "0" : "6"} data-testid="waiting">
      <Flex align="center" gap="2" mb="2">
        <Box flex="1">
          <Text as="h2" fontFamily="heading" fontWeight="700" fontSize={empty ? "20px" : "17px"}>
            Waiting for their talk
          </Text>
          <Text fontSize="13px" color="quiet">
            {empty
              ? "These parts come with the setup. Record, or add a recording: then their sounds hold on to it."
              : "Say which part of the episode each is. Its sounds are placed there, in one step."}
          </Text>
        </Box>
        {empty ? (
          <Button asChild size="sm" colorPalette="pine">
            <Link to={`/episodes/${episode.id}/record`}>Record it</Link>
          </Button>
        ) : (
          <Button
            size="sm"
            colorPalette="pine"
            variant={rows.length > 1 ? "solid" : "outline"}
            disabled={!fills.length}
            onClick={() => onEdit({ kind: "fill_rows", fills })}
          >
            {fills.length > 1 ? `Fill these ${fills.length}` : "Fill it"}
          </Button>
        )}
      </Flex>
      {waiting.map((one) => (
        <Flex
          key={one.row.id}
          align="center"
          gap="3"
          py="1.5"
          px="3"
          mb="1"
          borderWidth="1px"
          borderStyle="dashed"
          borderColor="rule"
          rounded="8px"
          data-waiting={one.row.name}
        >
          <Text fontWeight="700" w="170px" flexShrink="0" truncate>
            {one.row.name}
          </Text>
          <Text flex="1" minW="0" fontSize="13px" color="quiet" truncate>
            {one.row.sounds
              .map((sound) => `${sound.name} ${HOLDS[sound.holding].toLowerCase()}`)
              .join(", ") || "no sounds"}
          </Text>
          {!empty && (
            <Pick
              name={`Part for ${one.row.name}`}
              size="xs"
              w="190px"
              flexShrink="0"
              value={partOf(one)}
              options={[[NONE, "Goes on waiting"], ...rows.map((r) => [r.id, r.name] as const)]}
              onPick={(part) => setChosen({ ...chosen, [one.row.id]: part })}
            />
          )}
          <Button
            size="xs"
            variant="ghost"
            color="quiet"
            aria-label={`Do without ${one.row.name}`}
            onClick={() => onEdit({ kind: "drop_rows", rows: [one.row.id] })}
          >
            Do without
          </Button>
        </Flex>
      ))}
    </Box>
  );
}
