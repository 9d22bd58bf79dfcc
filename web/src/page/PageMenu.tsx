/** The menu of the Page: what can be done with the selection, or here. */
import { Box, Menu, Portal } from "@chakra-ui/react";
import type { ReactNode } from "react";
import { ACTIONS } from "../actions";
import type { Context } from "../actions/action";
import { keysOf, spoken, useChosenKeys } from "../actions/keys";
import { place } from "../playback/player";
import { complain } from "../theme/toaster";
import { useView } from "../view/view";
import { under } from "./usePointer";

export function PageMenu({ context, children }: { context: Context; children: ReactNode }) {
  return (
    <Menu.Root
      lazyMount
      unmountOnExit
      onSelect={({ value }) => {
        const action = ACTIONS.find((a) => a.id === value);
        if (action) void Promise.resolve(action.run(context)).catch(complain);
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
          <Menu.Content bg="raised" minW="270px" maxH="70vh" overflowY="auto">
            <Offered />
          </Menu.Content>
        </Menu.Positioner>
      </Portal>
    </Menu.Root>
  );
}

/** What can be done with the selection, or here; made when the menu is opened. */
function Offered() {
  const selection = useView((v) => v.selection);
  const chosen = useChosenKeys((k) => k.chosen);
  return ACTIONS.filter((a) => a.menu && (!a.selected || selection)).map((action) => {
    const [key] = keysOf(action, chosen);
    return (
      <Menu.Item key={action.id} value={action.id} fontSize="13px" py="1">
        <Box flex="1">{action.says}</Box>
        {key && (
          <Menu.ItemCommand fontFamily="body" letterSpacing="0" opacity="1" color="quiet">
            {spoken(key)}
          </Menu.ItemCommand>
        )}
      </Menu.Item>
    );
  });
}
