/** Something that is done or left out: its controls while it is on, what it is for while it is not. */
import { Box, Flex, Switch, Text } from "@chakra-ui/react";
import type { ReactNode } from "react";

interface Props {
  title: string;
  about: string;
  on: boolean;
  toggle: () => void;
  children?: ReactNode;
}

export function Step({ title, about, on, toggle, children }: Props) {
  return (
    <Box py="2" borderBottomWidth="1px" borderColor="rule">
      <Flex align="center" gap="2">
        <Text fontWeight="700" flex="1">
          {title}
        </Text>
        <Switch.Root size="sm" colorPalette="pine" checked={on} onCheckedChange={toggle}>
          <Switch.HiddenInput aria-label={title} />
          <Switch.Control bg={on ? "pine.solid" : "quiet"} />
        </Switch.Root>
      </Flex>
      {on ? (
        children && <Box mt="1">{children}</Box>
      ) : (
        <Text fontSize="12px" color="quiet">
          {about}
        </Text>
      )}
    </Box>
  );
}
