/** Each voice before and after, and how far apart its phrases are. */
import { Box, Table } from "@chakra-ui/react";
import type { Episode, Levels } from "../../api/client";
import { figure } from "../../time";
import { Heading } from "../Panel";

export function Speakers({ episode, levels }: { episode: Episode; levels: Levels }) {
  if (!levels.speakers.length) return null;
  const name = (id: string) => episode.tracks.find((t) => t.id === id)?.name ?? "";
  return (
    <Box mt="5">
      <Heading>Voices</Heading>
      <Table.Root size="sm" mt="2" data-testid="speakers">
        <Table.Header>
          <Table.Row bg="transparent">
            {["Name", "Before", "After", "Phrases apart"].map((title, i) => (
              <Table.ColumnHeader key={title} py="1" color="quiet" textAlign={i ? "right" : "left"}>
                {title}
              </Table.ColumnHeader>
            ))}
          </Table.Row>
        </Table.Header>
        <Table.Body>
          {levels.speakers.map((one) => (
            <Table.Row key={one.track} bg="transparent">
              <Table.Cell py="1">{name(one.track)}</Table.Cell>
              <Table.Cell py="1" textAlign="right">
                {figure(one.before, "LUFS")}
              </Table.Cell>
              <Table.Cell py="1" textAlign="right" fontWeight="700">
                {figure(one.after, "LUFS")}
              </Table.Cell>
              <Table.Cell py="1" textAlign="right">
                {figure(one.spread_lu, "LU")}
              </Table.Cell>
            </Table.Row>
          ))}
        </Table.Body>
      </Table.Root>
    </Box>
  );
}
