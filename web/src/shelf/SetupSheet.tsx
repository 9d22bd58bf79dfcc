/** A setup: what an episode begins with, and what of it can be changed. */
import { Box, Button, Flex, IconButton, Text } from "@chakra-ui/react";
import { ArrowUp, X } from "lucide-react";
import { type Setup, type SetupRow, useChangeSetup } from "../api/setups";
import { Ask } from "../theme/Ask";
import { TextField } from "../theme/fields/TextField";
import { announce } from "../theme/toaster";
import { clock, figure } from "../time";

/** How a host says what a sound holds on to. */
const WHERE: Record<SetupRow["sounds"][number]["holding"], string> = {
  before_talk: "before the talk",
  after_talk: "after the talk",
  under: "under it",
  between: "before the next part",
};

interface Props {
  setup: Setup;
  show: number;
  onClose: () => void;
}

export function SetupSheet({ setup, show, onClose }: Props) {
  const change = useChangeSetup(show);
  const { rows, tracks, tags, layout, target_lufs } = setup.setup;
  const set = (changed: SetupRow[]) =>
    change.mutate({ id: setup.id, setup: { ...setup.setup, rows: changed } });
  const remove = () => {
    change.mutate({ id: setup.id, deleted: true });
    announce(`“${setup.name}” was deleted.`, () => change.mutate({ id: setup.id, deleted: false }));
    onClose();
  };
  const target = target_lufs ?? (layout === "mono" ? -19 : -16);
  return (
    <Ask
      title="A setup for new episodes"
      open
      size="lg"
      onClose={onClose}
      foot={
        <>
          <Button variant="ghost" color="quiet" onClick={remove}>
            Delete
          </Button>
          <Box flex="1" />
          <Button asChild variant="outline">
            <a href={`/api/setups/${setup.id}/file`} download>
              Download as a file
            </a>
          </Button>
          <Button colorPalette="pine" onClick={onClose}>
            Done
          </Button>
        </>
      }
    >
      <Box data-testid="setup">
        <Text fontSize="13px" color="quiet" mb="3">
          What you change here is for episodes to come; those you have stay as they are.
        </Text>
        <TextField
          label="Name of the setup"
          value={setup.name}
          onSet={(name) => change.mutate({ id: setup.id, name })}
        />
        <Text fontWeight="700" mt="4" mb="1">
          Parts, and the sounds that come with them
        </Text>
        {rows.map((row, index) => (
          <Flex
            // biome-ignore lint/suspicious/noArrayIndexKey: rows may have the same name
            key={index}
            align="center"
            gap="2"
            py="1.5"
            borderBottomWidth="1px"
            borderColor="rule"
            data-row={row.name}
          >
            <Box w="190px" flexShrink="0">
              <TextField
                size="xs"
                label={`Name of part ${index + 1}`}
                value={row.name}
                onSet={(name) => set(rows.with(index, { ...row, name }))}
              />
            </Box>
            <Flex flex="1" gap="1.5" wrap="wrap">
              {row.sounds.map((sound, place) => (
                <Flex
                  // biome-ignore lint/suspicious/noArrayIndexKey: a sound may stand here twice
                  key={place}
                  align="center"
                  bg="wash"
                  rounded="6px"
                  pl="2"
                  fontSize="13px"
                >
                  {sound.name} {WHERE[sound.holding]}, {clock(sound.frames, 0)}
                  {setup.missing.includes(sound.name) && (
                    <Text as="span" color="trouble" ml="1">
                      · gone from the shelf
                    </Text>
                  )}
                  <IconButton
                    size="2xs"
                    variant="ghost"
                    color="quiet"
                    aria-label={`Leave ${sound.name} out`}
                    onClick={() =>
                      set(rows.with(index, { ...row, sounds: row.sounds.toSpliced(place, 1) }))
                    }
                  >
                    <X size={12} />
                  </IconButton>
                </Flex>
              ))}
              {!row.sounds.length && (
                <Text fontSize="13px" color="quiet">
                  no sounds
                </Text>
              )}
            </Flex>
            <IconButton
              size="2xs"
              variant="ghost"
              color="quiet"
              aria-label={`Move ${row.name} up`}
              disabled={!index}
              onClick={() => set(rows.toSpliced(index, 1).toSpliced(index - 1, 0, row))}
            >
              <ArrowUp size={14} />
            </IconButton>
            <IconButton
              size="2xs"
              variant="ghost"
              color="quiet"
              aria-label={`Leave ${row.name} out`}
              onClick={() => set(rows.toSpliced(index, 1))}
            >
              <X size={14} />
            </IconButton>
          </Flex>
        ))}
        <Text fontWeight="700" mt="4">
          And
        </Text>
        <Text fontSize="13px" color="quiet">
          {tracks.length
            ? `Tracks with their sound: ${tracks.map((one) => one.name).join(", ")}. `
            : "No tracks. "}
          {layout === "mono" ? "Mono" : "Stereo"}, to {figure(target, "LUFS")}.{" "}
          {tags.show ? `Tags of “${tags.show}”, with the next number. ` : "With the next number. "}
          Title and description are each episode’s own.
        </Text>
      </Box>
    </Ask>
  );
}
