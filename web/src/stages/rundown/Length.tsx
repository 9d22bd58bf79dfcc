/** How long the episode is, and shall be. */
import { Button, Flex, Text } from "@chakra-ui/react";
import type { ReactNode } from "react";
import type { Edit } from "../../api/client";
import { TimeField } from "../../theme/fields/TimeField";
import { clock } from "../../time";
import { Card, Heading } from "../Panel";

interface Props {
  frames: number;
  wanted: number | null;
  /** What could still be saved. */
  saved: ReactNode;
  onEdit: (edit: Edit) => void;
}

export function Length({ frames, wanted, saved, onEdit }: Props) {
  const off = wanted === null ? null : frames - wanted;
  return (
    <>
      <Heading>Length</Heading>
      <Card data-testid="length">
        <Flex justify="space-between" align="baseline">
          <Text>Now</Text>
          <Text fontWeight="700">{clock(frames, 0)}</Text>
        </Flex>
        <Flex justify="space-between" align="center" mt="1">
          <Text>Wanted</Text>
          {wanted === null ? (
            <Button
              size="2xs"
              variant="outline"
              onClick={() => onEdit({ kind: "set_wanted_length", frames })}
            >
              Set a length
            </Button>
          ) : (
            <TimeField
              label="Wanted length"
              at={wanted}
              digits={0}
              textAlign="right"
              fontSize="14px"
              onSet={(at) => onEdit({ kind: "set_wanted_length", frames: at || null })}
            />
          )}
        </Flex>
        {off !== null && (
          <Flex justify="space-between" mt="1" color={off > 0 ? "trouble" : undefined}>
            <Text>{off > 0 ? "Over by" : "Under by"}</Text>
            <Text fontWeight="700">{clock(Math.abs(off), 0)}</Text>
          </Flex>
        )}
        {saved}
      </Card>
    </>
  );
}
