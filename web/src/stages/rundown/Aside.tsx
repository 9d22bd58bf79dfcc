/** Parts that left the episode and wait. */
import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { clock } from "../../time";
import { quoted, type Row } from "./parts";

interface Props {
  rows: readonly Row[];
  /** Of the part before which they would come back; null: at the end. */
  before: string | null;
  onBack: (id: string) => void;
  onDelete: (id: string) => void;
}

export function Aside({ rows, before, onBack, onDelete }: Props) {
  if (!rows.length) return null;
  const where = before ? `before “${before}”` : "at the end";
  return (
    <Box mt="6" data-testid="aside">
      <Text as="h2" fontFamily="heading" fontWeight="700" fontSize="17px">
        Put aside
      </Text>
      <Text fontSize="13px" color="quiet" mb="2">
        Not in the episode, and not lost. They come back {where}.
      </Text>
      {rows.map((row) => (
        <Flex
          key={row.id}
          align="center"
          gap="3"
          py="1.5"
          px="3"
          mb="1"
          borderWidth="1px"
          borderStyle="dashed"
          borderColor="rule"
          rounded="8px"
          data-aside={row.id}
        >
          <Text fontWeight="700" maxW="200px" truncate>
            {row.name}
          </Text>
          <Text flex="1" minW="0" fontSize="13px" color="quiet" truncate>
            {row.in_words ? `${quoted(row.in_words)} … ${quoted(row.out_words)}` : "no words"}
          </Text>
          <Text fontSize="13px">{clock(row.frames, 0)}</Text>
          <Button size="xs" variant="outline" onClick={() => onBack(row.id)}>
            Bring back
          </Button>
          <Button size="xs" variant="ghost" color="quiet" onClick={() => onDelete(row.id)}>
            Delete
          </Button>
        </Flex>
      ))}
    </Box>
  );
}
