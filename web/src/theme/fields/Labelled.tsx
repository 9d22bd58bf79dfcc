/** A field under its name. */
import { Box, Text } from "@chakra-ui/react";
import type { ReactNode } from "react";

export function Labelled({ says, children }: { says: ReactNode; children: ReactNode }) {
  return (
    <Box mt="3" _first={{ mt: "0" }}>
      <Text fontSize="13px" mb="1">
        {says}
      </Text>
      {children}
    </Box>
  );
}
