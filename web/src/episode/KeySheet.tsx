/** The sheet of keys, and where they are changed. */
import { Box, Button, Flex, Kbd, Text } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { ACTIONS } from "../actions";
import { type Action, GROUPS } from "../actions/action";
import { chooseKey, keysOf, pressed, spoken, useChosenKeys, usualKeys } from "../actions/keys";
import { Ask } from "../theme/Ask";
import { walk } from "../view/walk";

interface SheetProps {
  open: boolean;
  onClose: () => void;
  /** The episode that is open. */
  episode: number;
}

export function KeySheet({ open, onClose, episode }: SheetProps) {
  const chosen = useChosenKeys((k) => k.chosen);
  const [changing, setChanging] = useState<Action | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  useEffect(() => {
    if (!changing) return;
    const press = (event: KeyboardEvent) => {
      if (["Shift", "Control", "Alt", "Meta"].includes(event.key)) return;
      event.preventDefault();
      event.stopPropagation();
      const refused = event.key === "Escape" ? null : chooseKey(changing, pressed(event));
      setProblem(refused);
      if (!refused) setChanging(null);
    };
    addEventListener("keydown", press, true);
    return () => removeEventListener("keydown", press, true);
  }, [changing]);

  return (
    <Ask
      title="Keys"
      open={open}
      onClose={onClose}
      size="xl"
      cross
      foot={
        <>
          <Button
            size="sm"
            variant="ghost"
            onClick={() => {
              walk(episode);
              onClose();
            }}
          >
            Five steps to begin with
          </Button>
          <Button
            size="sm"
            variant="outline"
            disabled={Object.keys(chosen).length === 0}
            onClick={() => usualKeys()}
          >
            Reset keys
          </Button>
        </>
      }
    >
      <Text fontSize="13px" color="quiet" mb="2">
        Click a key to give the action another.
      </Text>
      {problem && (
        <Text color="trouble" fontSize="13px" mb="2" role="alert">
          {problem}
        </Text>
      )}
      <Box columnCount={2} columnGap="28px">
        {GROUPS.map((group) => (
          <Box key={group} mb="3">
            <Text fontWeight="700" fontSize="13px" breakAfter="avoid">
              {group}
            </Text>
            {ACTIONS.filter((a) => a.group === group).map((action) => (
              <KeyRow
                key={action.id}
                says={action.says}
                changed={action.id in chosen}
                waiting={changing === action}
                keys={keysOf(action, chosen)}
                onChange={() => {
                  setProblem(null);
                  setChanging(action);
                }}
                onUsual={() => usualKeys(action)}
              />
            ))}
          </Box>
        ))}
      </Box>
    </Ask>
  );
}

interface RowProps {
  says: string;
  keys: string[];
  changed: boolean;
  waiting: boolean;
  onChange: () => void;
  onUsual: () => void;
}

function KeyRow({ says, keys, changed, waiting, onChange, onUsual }: RowProps) {
  return (
    <Flex gap="3" fontSize="13px" py="2px" align="center" breakInside="avoid">
      <Box w="116px" flexShrink="0">
        <Box
          as="button"
          textAlign="left"
          onClick={onChange}
          aria-label={`Change the key for: ${says}`}
        >
          {waiting ? (
            <Text as="span" color="trouble">
              Press a key
            </Text>
          ) : (
            keys.map((key) => (
              <Kbd key={key} mr="1" size="sm" wordSpacing="normal">
                {spoken(key)}
              </Kbd>
            ))
          )}
        </Box>
      </Box>
      <Text flex="1">{says}</Text>
      {changed && (
        <Button size="2xs" variant="ghost" onClick={onUsual}>
          Reset
        </Button>
      )}
    </Flex>
  );
}
