/** What can be done with the part that is chosen. */
import { Button, type ButtonProps, Grid, Text } from "@chakra-ui/react";
import { Card, Heading } from "../Panel";
import type { Row } from "./parts";

interface Props {
  row: Row | undefined;
  first: boolean;
  last: boolean;
  only: boolean;
  onUp: () => void;
  onDown: () => void;
  onDouble: () => void;
  onMerge: () => void;
  onAside: () => void;
  onPart: () => void;
}

export function Chosen({ row, first, last, only, ...on }: Props) {
  return (
    <>
      <Heading>{row ? row.name : "Part"}</Heading>
      <Card data-testid="chosen">
        {row ? (
          <Grid templateColumns="1fr 1fr" gap="2">
            <Do title="Alt+↑" disabled={first} onClick={on.onUp}>
              Move up
            </Do>
            <Do title="Alt+↓" disabled={last} onClick={on.onDown}>
              Move down
            </Do>
            <Do title="Put it once more after itself (Ctrl+D)" onClick={on.onDouble}>
              Duplicate
            </Do>
            <Do
              title="Make one part of it and the one before"
              disabled={first}
              onClick={on.onMerge}
            >
              Merge with previous
            </Do>
            <Do title="Where you listen (\)" onClick={on.onPart}>
              Part at playhead
            </Do>
            <Do
              title="It leaves the episode and waits below (Delete)"
              disabled={only}
              onClick={on.onAside}
            >
              Put aside
            </Do>
          </Grid>
        ) : (
          <Text fontSize="13px" color="quiet">
            Choose a row to move, duplicate or put aside its part. Rows can be dragged by their
            grip.
          </Text>
        )}
      </Card>
    </>
  );
}

const Do = (props: ButtonProps) => <Button size="xs" variant="outline" {...props} />;
