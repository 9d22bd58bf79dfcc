/** A change was refused, since the episode was changed elsewhere: the host chooses. */
import { Button, Text } from "@chakra-ui/react";
import { useStale } from "../api/queries";
import { Ask } from "../theme/Ask";

export function StaleDialog() {
  const waiting = useStale((s) => s.waiting);
  const close = () => useStale.setState({ waiting: null });
  return (
    <Ask
      title="The episode has changed"
      open={waiting !== null}
      role="alertdialog"
      onClose={close}
      foot={
        <>
          <Button
            variant="outline"
            onClick={() => {
              waiting?.again();
              close();
            }}
          >
            Make my change all the same
          </Button>
          <Button colorPalette="pine" onClick={close}>
            Cancel, look first
          </Button>
        </>
      }
    >
      <Text>{waiting?.sentence}</Text>
      <Text mt="2" color="quiet">
        Your change was meant for the times as they were before; they may have moved.
      </Text>
    </Ask>
  );
}
