/** Sections and markers by name and time: gone to, renamed, moved, taken away. */
import { Box, Button, Flex, IconButton, Text } from "@chakra-ui/react";
import { X } from "lucide-react";
import type { Context } from "../../actions/action";
import { changedSection, withoutSection } from "../../actions/sections";
import { MARKER_COLOURS, MARKER_NAMES } from "../../page/MarkerFlag";
import { place } from "../../playback/player";
import { TextField } from "../../theme/fields/TextField";
import { TimeField } from "../../theme/fields/TimeField";

export function Marks({ context }: { context: Context }) {
  const { episode, edit } = context;
  const { sections } = episode;
  return (
    <Box data-testid="marks">
      <Text fontSize="12px" color="quiet" mb="1">
        Sections
      </Text>
      {sections.map((section, i) => (
        <Flex key={section.id} gap="1" align="center" py="0.5">
          {i === 0 ? (
            <Text w="72px" px="1" fontSize="12px">
              0:00.00
            </Text>
          ) : (
            <TimeField
              label={`Where ${section.name} begins`}
              at={section.at}
              onSet={(at) => edit(changedSection(sections, section.id, { at }))}
            />
          )}
          <TextField
            size="2xs"
            flex="1"
            minW="0"
            px="1"
            optional
            label={`Name of section ${section.name}`}
            value={section.name}
            onSet={(name) => edit(changedSection(sections, section.id, { name }))}
          />
          <Go at={section.at} />
          {i > 0 && (
            <Away
              label={`Take section ${section.name} away`}
              onClick={() => edit(withoutSection(sections, section.id))}
            />
          )}
        </Flex>
      ))}
      <Text fontSize="12px" color="quiet" mt="3" mb="1">
        Markers
      </Text>
      {episode.markers.length === 0 && (
        <Text fontSize="13px" color="quiet">
          None yet. M sets one at the playhead.
        </Text>
      )}
      <Box maxH="320px" overflowY="auto">
        {episode.markers.map((marker) => (
          <Flex key={marker.id} gap="1" align="center" py="0.5">
            <TimeField
              label={`Where ${MARKER_NAMES[marker.kind]} stands`}
              at={marker.at}
              onSet={(at) => edit({ kind: "change_marker", marker: marker.id, at })}
            />
            <Box
              w="9px"
              h="9px"
              flexShrink="0"
              bg={MARKER_COLOURS[marker.kind]}
              borderRadius={marker.kind === "note" || marker.kind === "todo" ? "5px" : "2px"}
              title={MARKER_NAMES[marker.kind]}
            />
            <TextField
              size="2xs"
              flex="1"
              minW="0"
              px="1"
              optional
              label={`Name of ${MARKER_NAMES[marker.kind]}`}
              value={marker.name}
              placeholder={MARKER_NAMES[marker.kind]}
              onSet={(name) => edit({ kind: "change_marker", marker: marker.id, name })}
            />
            <Go at={marker.at} />
            <Away
              label={`Take ${marker.name || MARKER_NAMES[marker.kind]} away`}
              onClick={() => edit({ kind: "remove_marker", marker: marker.id })}
            />
          </Flex>
        ))}
      </Box>
    </Box>
  );
}

const Go = ({ at }: { at: number }) => (
  <Button size="2xs" variant="ghost" px="1" onClick={() => place(at)}>
    Go
  </Button>
);

const Away = ({ label, onClick }: { label: string; onClick: () => void }) => (
  <IconButton size="2xs" variant="ghost" color="quiet" aria-label={label} onClick={onClick}>
    <X size={13} />
  </IconButton>
);
