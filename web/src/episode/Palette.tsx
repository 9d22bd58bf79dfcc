/** Every action of the stage by its name: a few letters find it, Enter does it. */
import { Box, Flex, Input, Kbd, Text } from "@chakra-ui/react";
import { type KeyboardEvent, useEffect, useLayoutEffect, useRef, useState } from "react";
import { type Context, perform } from "../actions/action";
import { ahead } from "../actions/ahead";
import { actionsOn, keysOf, spoken, useChosenKeys } from "../actions/keys";
import { Ask } from "../theme/Ask";
import { type Anywhere, PLACES, useGoTo } from "../view/places";

interface Entry {
  id: string;
  group: string;
  says: string;
  also: string | undefined;
  key: string | undefined;
  run: () => void;
}

const textOf = ({ group, says, also }: Entry) => `${group} ${says} ${also ?? ""}`;

interface Props {
  context: Context;
  stage: string;
  onClose: () => void;
}

export function Palette({ context, stage, onClose }: Props) {
  const chosen = useChosenKeys((k) => k.chosen);
  const goTo = useGoTo();
  const [typed, setTyped] = useState(() => ahead.text);
  useLayoutEffect(() => {
    // Characters that came between drawing the dialog and here count, too.
    setTyped(ahead.text);
    ahead.attach((text) => {
      setTyped(text);
      setAt(0);
    });
    return () => ahead.end();
  }, []);
  const [at, setAt] = useState(0);
  const list = useRef<HTMLDivElement>(null);
  const field = useRef<HTMLInputElement>(null);
  const entries: Entry[] = [
    ...actionsOn(stage)
      .filter((action) => action.id !== "find-action" && !action.release)
      .map((action) => ({
        id: action.id,
        group: action.group,
        says: action.says,
        also: action.also,
        key: keysOf(action, chosen)[0],
        run: () => perform(action, context),
      })),
    ...(Object.keys(PLACES) as Anywhere[])
      .filter((place) => place !== stage)
      .map((place) => ({
        id: `place-${place}`,
        group: "Place",
        says: PLACES[place].says,
        also: PLACES[place].also,
        key: undefined,
        run: () => goTo(place, context.episode.id),
      })),
  ];
  const words = typed.toLowerCase().split(/\s+/).filter(Boolean);
  const among = (text: string) => words.every((word) => text.toLowerCase().includes(word));
  const named = entries.filter(({ group, says }) => among(`${group} ${says}`));
  // What is called so comes before what is only known by that word, too.
  const known = entries.filter((entry) => !named.includes(entry) && among(textOf(entry)));
  const found = [...named, ...known];
  const now = Math.min(at, found.length - 1);
  useEffect(() => {
    list.current?.querySelector(`[data-at="${now}"]`)?.scrollIntoView({ block: "nearest" });
  }, [now]);
  const run = (entry: Entry | undefined) => {
    if (!entry) return;
    onClose();
    entry.run();
  };
  const press = (event: KeyboardEvent) => {
    const by = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (by && found.length) {
      event.preventDefault();
      setAt((now + by + found.length) % found.length);
    }
    if (event.key === "Enter") {
      event.preventDefault();
      run(found[now]);
    }
  };
  return (
    <Ask
      title="Find an action"
      open
      onClose={onClose}
      size="md"
      cross
      foot={null}
      initialFocusEl={() => field.current}
    >
      <Input
        ref={field}
        role="combobox"
        aria-label="What to do"
        aria-expanded
        aria-controls="actions-found"
        aria-activedescendant={found[now] && `found-${found[now].id}`}
        placeholder="cut, fade, volume, export…"
        value={typed}
        onChange={(event) => {
          setTyped(event.target.value);
          setAt(0);
        }}
        onKeyDown={press}
      />
      <Box
        ref={list}
        id="actions-found"
        role="listbox"
        aria-label="Actions"
        h="46vh"
        overflowY="auto"
        mt="2"
      >
        {found.map((entry, place) => (
          <Flex
            key={entry.id}
            id={`found-${entry.id}`}
            role="option"
            aria-selected={place === now}
            data-at={place}
            align="center"
            gap="3"
            px="2"
            py="1"
            rounded="6px"
            cursor="pointer"
            bg={place === now ? "wash" : undefined}
            onClick={() => run(entry)}
            onPointerMove={() => setAt(place)}
          >
            <Text w="70px" fontSize="12px" color="quiet">
              {entry.group}
            </Text>
            <Text flex="1" fontSize="14px">
              {entry.says}
            </Text>
            {entry.key && (
              <Kbd size="sm" wordSpacing="normal">
                {spoken(entry.key)}
              </Kbd>
            )}
          </Flex>
        ))}
        {!found.length && (
          <Text color="quiet" p="2" fontSize="13px">
            Nothing is called that. Fewer letters find more.
          </Text>
        )}
      </Box>
    </Ask>
  );
}
