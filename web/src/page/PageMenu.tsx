/** The menu of the Page: what can be done with the selection, or here. */
import { Box, Menu, Portal } from "@chakra-ui/react";
import type { ReactNode } from "react";
import { ACTIONS } from "../actions";
import { type Context, GROUPS, perform } from "../actions/action";
import { keysOf, spoken, useChosenKeys } from "../actions/keys";
import { place } from "../playback/player";
import { useView } from "../view/view";
import { OnPage } from "./Do";
import { under } from "./usePointer";

export function PageMenu({ context, children }: { context: Context; children: ReactNode }) {
  return (
    <OnPage value={context}>
      <Menu.Root
        lazyMount
        // Beside the pointer it can slide up and down, and so never runs off the window.
        positioning={{ placement: "right-start" }}
        unmountOnExit
        onSelect={({ value }) => {
          const action = ACTIONS.find((a) => a.id === value);
          if (action) perform(action, context);
        }}
      >
        <Menu.ContextTrigger asChild>
          <Box
            display="flex"
            flex="1"
            minW="0"
            minH="0"
            onContextMenu={(event) => {
              const here = under(event.clientX, event.clientY, context.episode.frames);
              if (!here) return;
              if (here.track) useView.setState({ track: here.track });
              const { selection: now, select } = useView.getState();
              const inside = now && here.span.start >= now.start && here.span.end <= now.end;
              if (inside) return;
              place(here.span.start);
              select(here.word ? here.span : null);
            }}
          >
            {children}
          </Box>
        </Menu.ContextTrigger>
        <Portal>
          <Menu.Positioner>
            <Menu.Content
              bg="raised"
              w="600px"
              maxH="88vh"
              overflowY="auto"
              columnCount={2}
              columnGap="2"
            >
              <Offered />
            </Menu.Content>
          </Menu.Positioner>
        </Portal>
      </Menu.Root>
    </OnPage>
  );
}

/** What can be done with the selection, or here, by what it is about; made when the menu is opened. */
function Offered() {
  const selection = useView((v) => v.selection);
  const chosen = useChosenKeys((k) => k.chosen);
  const offered = ACTIONS.filter((a) => a.menu && (!a.selected || selection));
  return GROUPS.map((group) => {
    const own = offered.filter((action) => action.group === group);
    if (!own.length) return null;
    return (
      <Menu.ItemGroup key={group} pb="1.5">
        <Menu.ItemGroupLabel breakAfter="avoid" fontSize="12px" color="quiet" py="0.5">
          {group}
        </Menu.ItemGroupLabel>
        {own.map((action) => {
          const [key] = keysOf(action, chosen);
          return (
            <Menu.Item
              key={action.id}
              value={action.id}
              fontSize="13px"
              py="0.5"
              breakInside="avoid"
            >
              <Box flex="1">{action.says}</Box>
              {key && (
                <Menu.ItemCommand fontFamily="body" letterSpacing="0" opacity="1" color="quiet">
                  {spoken(key)}
                </Menu.ItemCommand>
              )}
            </Menu.Item>
          );
        })}
      </Menu.ItemGroup>
    );
  });
}
