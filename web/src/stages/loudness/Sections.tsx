/** The sections: named, moved and merged in place, with how loud each is before and after. */
import { Box, Button, Flex, Table, Text } from "@chakra-ui/react";
import { changedSection, withoutSection } from "../../actions/sections";
import type { Episode, Levels } from "../../api/client";
import { useEdit, useFindSections } from "../../api/queries";
import { TextField } from "../../theme/fields/TextField";
import { TimeField } from "../../theme/fields/TimeField";
import { Head } from "../../theme/Head";
import { Meaning } from "../../theme/Meaning";
import { clock, figure } from "../../time";
import { Heading } from "../Panel";

/** A field that looks like the text of its cell until it is pointed at. */
const CELL = {
  size: "xs",
  fontSize: "14px",
  px: "2",
  ml: "-2",
  variant: "outline",
  borderColor: "transparent",
  _hover: { borderColor: "rule" },
} as const;

interface Column {
  title: string;
  w?: string;
  textAlign?: "right";
  unseen?: boolean;
}

const COLUMNS: readonly Column[] = [
  { title: "Name" },
  { title: "Starts", w: "92px" },
  { title: "Before", textAlign: "right" },
  { title: "Gain", textAlign: "right" },
  { title: "After", textAlign: "right" },
  { title: "What can be done", unseen: true, w: "90px" },
];

export function Sections({ episode, levels }: { episode: Episode; levels: Levels | undefined }) {
  const edit = useEdit(episode.id);
  const find = useFindSections(episode.id);
  const { sections } = episode;
  return (
    <Box mt="5">
      <Flex align="center">
        <Box flex="1">
          <Heading>Sections</Heading>
        </Box>
        <Button
          size="xs"
          variant="outline"
          title="By who speaks, from which recording, by music and noted places"
          loading={find.isPending}
          onClick={() => find.mutate(undefined)}
        >
          Find sections
        </Button>
      </Flex>
      <Table.Root size="sm" mt="2" data-testid="sections">
        <Table.Header>
          <Table.Row bg="transparent">
            {COLUMNS.map(({ title, unseen, ...column }) => (
              <Table.ColumnHeader key={title} py="1" color="quiet" {...column}>
                {title === "Gain" ? <Meaning of={title} /> : <Head title={title} unseen={unseen} />}
              </Table.ColumnHeader>
            ))}
          </Table.Row>
        </Table.Header>
        <Table.Body>
          {sections.map((section, i) => (
            <Table.Row key={section.id} bg="transparent">
              <Table.Cell py="1">
                <TextField
                  {...CELL}
                  label={`Name of section ${i + 1}`}
                  value={section.name}
                  onSet={(name) => edit.mutate(changedSection(sections, section.id, { name }))}
                />
              </Table.Cell>
              <Table.Cell py="1">
                {i === 0 ? (
                  <Text>{clock(0)}</Text>
                ) : (
                  <TimeField
                    {...CELL}
                    w="100%"
                    label={`Start of section ${i + 1}`}
                    at={section.at}
                    digits={1}
                    onSet={(at) => edit.mutate(changedSection(sections, section.id, { at }))}
                  />
                )}
              </Table.Cell>
              <Table.Cell py="1" textAlign="right" whiteSpace="nowrap">
                {figure(levels?.sections_before[i], "LUFS")}
              </Table.Cell>
              <Table.Cell py="1" textAlign="right" whiteSpace="nowrap">
                {signed(section.gain_db + episode.loudness.gain_db)}
              </Table.Cell>
              <Table.Cell py="1" textAlign="right" whiteSpace="nowrap" fontWeight="700">
                {figure(levels?.sections_after[i], "LUFS")}
              </Table.Cell>
              <Table.Cell py="1" textAlign="right">
                {i > 0 && (
                  <Button
                    size="xs"
                    variant="ghost"
                    color="quiet"
                    title="Merge this section with the one before"
                    onClick={() => edit.mutate(withoutSection(sections, section.id))}
                  >
                    Merge with previous
                  </Button>
                )}
              </Table.Cell>
            </Table.Row>
          ))}
        </Table.Body>
      </Table.Root>
      <Text fontSize="13px" color="quiet" mt="2">
        Start a section on the Edit stage, where one voice, room or day gives way to another.
      </Text>
    </Box>
  );
}

const signed = (db: number) => `${db > 0 ? "+" : ""}${figure(db, "dB")}`;
