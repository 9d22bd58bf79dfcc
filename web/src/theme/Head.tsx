/** The head of a column; one whose cells speak for themselves has it for screen readers alone. */
import { Box } from "@chakra-ui/react";

export const Head = ({ title, unseen }: { title: string; unseen?: boolean }) =>
  unseen ? (
    <Box as="span" srOnly>
      {title}
    </Box>
  ) : (
    title
  );
