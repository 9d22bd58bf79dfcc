/** Rundown: the parts of the episode in their order, as a producer writes them down. */
import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { useState } from "react";
import type { Context } from "../../actions/action";
import { useProvided } from "../../actions/provided";
import { changedSection, withoutSection, withSection } from "../../actions/sections";
import { startMeasure, useEdit, useFindSections, useLevels } from "../../api/queries";
import { place, play, position, positionRevision } from "../../playback/player";
import { playSeams } from "../../playback/seams";
import { announce, complain } from "../../theme/toaster";
import { AddButton } from "../AddSound";
import { Panel } from "../Panel";
import { Aside } from "./Aside";
import { Chosen } from "./Chosen";
import { KeepSetup } from "./KeepSetup";
import { Length } from "./Length";
import { Parting } from "./Parting";
import { PlacedSound } from "./PlacedSound";
import { before, useRundown } from "./parts";
import { Rows } from "./Rows";
import { Saved } from "./Saved";
import { Shelf } from "./Shelf";
import { type Holding, placing, type ShelfSound, USUAL, used, useShelf } from "./sounds";
import { useReordered } from "./useReordered";
import { Waiting } from "./Waiting";

/** In place of an id: the sound that was placed last. */
const NEWEST = "newest";

/** What takes so much once it is known: nothing jumps when it comes. */
const ROW_PX = 47;
const SAVED_PX = 43;

export function RundownStage({ context: { episode } }: { context: Context }) {
  const { data } = useRundown(episode.id, episode.revision);
  const { data: levels } = useLevels(episode.id, episode.revision);
  const edit = useEdit(episode.id);
  const { rows, reorder } = useReordered(data, edit.mutateAsync);
  const find = useFindSections(episode.id);
  const [chosen, setChosen] = useState<string | null>(null);
  const [chosenSound, setChosenSound] = useState<string | null>(null);
  const { data: shelf = [] } = useShelf(episode);

  const index = rows.findIndex((row) => row.id === chosen);
  const row = rows[index];
  const current = levels?.revision === episode.revision && levels.measured;
  const { sections } = episode;
  const shift = (by: 1 | -1) => {
    const to = index + by;
    if (row && to >= 0 && to < rows.length) reorder(row.id, before(rows, index, to));
  };
  const choose = (by: 1 | -1) => {
    const next = rows[Math.max(0, Math.min(rows.length - 1, index + by))];
    if (!next) return;
    setChosen(next.id);
    place(next.at ?? 0);
  };
  const duplicate = () => row && edit.mutate({ kind: "duplicate_part", section: row.id });
  const aside = () => {
    if (!row || rows.length < 2) return;
    edit.mutate({ kind: "put_aside", section: row.id });
    setChosen((rows[index + 1] ?? rows[index - 1])?.id ?? null);
  };
  const partHere = () => {
    const at = Math.round(position());
    const within = rows.findLast((one) => (one.at ?? 0) <= at);
    if (!within || within.at === at || at >= episode.frames) {
      return announce("Put the playhead where the new part shall begin.");
    }
    const name = `${within.name.slice(0, 112)}, part 2`;
    edit.mutate(withSection(sections, at, name), { on: positionRevision() });
  };
  const sounds = data?.sounds ?? [];
  const placed =
    chosenSound === NEWEST ? sounds.at(-1) : sounds.find(({ sound }) => sound.id === chosenSound);
  /** Place a sound of the shelf, and show what came of it. */
  const put = async (sound: ShelfSound, holding: Holding, part: string) => {
    const [at, on] = [Math.round(position()), positionRevision()];
    const recording = await used(episode.id, sound.id).catch(complain);
    if (!recording) return;
    const wanted = placing(sound, recording, holding, part, at);
    edit.mutate(wanted, { on, done: () => setChosenSound(NEWEST) });
  };
  const seams = () =>
    playSeams(
      sections.slice(1).map(({ at }) => at),
      episode.frames,
    );

  const measure = () => void startMeasure(episode.id, episode.revision).catch(complain);

  useProvided({
    "part-on": () => choose(1),
    "part-back": () => choose(-1),
    "part-play": () => row && play(row.at ?? 0, (row.at ?? 0) + row.frames),
    "part-up": () => shift(-1),
    "part-down": () => shift(1),
    "part-double": duplicate,
    "part-aside": aside,
    "part-here": partHere,
    "part-note": () =>
      edit.mutate(
        { kind: "note_places", places: [Math.round(position())] },
        { on: positionRevision() },
      ),
    seams,
  });

  const waiting = data?.waiting ?? [];
  if (episode.frames === 0) {
    return (
      <Box flex="1" maxW="920px" w="100%" mx="auto" px="6" py="6" data-takes-parts>
        <Flex align="center" gap="3" mb="6">
          <Text flex="1" color="quiet">
            Add recordings: each becomes a part of the episode, in the order in which they come.
          </Text>
          <AddButton episode={episode.id} asParts main={!waiting.length} />
        </Flex>
        <Waiting episode={episode} waiting={waiting} rows={[]} onEdit={edit.mutate} />
      </Box>
    );
  }
  return (
    <Flex flex="1" minH="0">
      <Box flex="1" minW="0" overflowY="auto" px="6" py="4" data-takes-parts>
        <Flex align="center" gap="2" mb="2">
          <Box flex="1">
            <Text as="h2" fontFamily="heading" fontWeight="700" fontSize="20px">
              Running order
            </Text>
            <Text fontSize="13px" color="quiet">
              Drag a part by its grip to put it elsewhere: all tracks go along, and undo takes it
              back.
            </Text>
          </Box>
          <KeepSetup episode={episode} />
          {sections.length === 1 && (
            <Button
              size="sm"
              colorPalette="pine"
              title="By who speaks, from which recording, by music and noted places"
              loading={find.isPending}
              onClick={() => find.mutate(undefined)}
            >
              Find the parts
            </Button>
          )}
          <Button
            size="sm"
            variant="outline"
            title="The last three seconds of each part and the first of the next (J)"
            disabled={rows.length < 2}
            onClick={seams}
          >
            Hear the seams
          </Button>
        </Flex>
        <Box className="rundown-rows" minH={data ? undefined : `${sections.length * ROW_PX}px`}>
          <Rows
            episode={episode}
            rows={rows}
            levels={current ? levels : undefined}
            chosen={chosen}
            sounds={sounds}
            chosenSound={placed?.sound.id ?? null}
            onSound={setChosenSound}
            onPlace={(id, part) => {
              const sound = shelf.find((one) => one.id === id);
              if (sound) void put(sound, USUAL[sound.kind], part);
            }}
            onChoose={setChosen}
            onMove={reorder}
            onName={(id, name) => edit.mutate(changedSection(sections, id, { name }))}
          />
        </Box>
        <Flex gap="2" mt="2" align="center">
          <AddButton episode={episode.id} asParts />
          {!current && (
            <Button size="xs" variant="ghost" color="quiet" onClick={measure}>
              Measure how loud each part is
            </Button>
          )}
        </Flex>
        <Waiting episode={episode} waiting={waiting} rows={rows} onEdit={edit.mutate} />
        <Parting episode={episode} onEdit={edit.mutate} />
        <Aside
          rows={data?.aside ?? []}
          before={row?.name ?? null}
          onBack={(section) => {
            edit.mutate({ kind: "bring_back", section, before: row?.id ?? null });
            setChosen(section);
          }}
          onDelete={(section) => edit.mutate({ kind: "throw_away", section })}
        />
      </Box>
      <Panel>
        <Length
          frames={episode.frames}
          wanted={data?.wanted_frames ?? null}
          saved={data ? <Saved episode={episode} /> : <Box h={`${SAVED_PX}px`} />}
          onEdit={edit.mutate}
        />
        <Chosen
          row={row}
          first={index === 0}
          last={index === rows.length - 1}
          only={rows.length < 2}
          onUp={() => shift(-1)}
          onDown={() => shift(1)}
          onDouble={duplicate}
          onMerge={() => row && edit.mutate(withoutSection(sections, row.id))}
          onAside={aside}
          onPart={partHere}
        />
        {placed && <PlacedSound placed={placed} rows={rows} onEdit={edit.mutate} />}
        <Shelf
          episode={episode}
          part={row?.name}
          last={index === rows.length - 1}
          onPlace={(sound, holding) => void put(sound, holding, row?.id ?? "")}
        />
      </Panel>
    </Flex>
  );
}
