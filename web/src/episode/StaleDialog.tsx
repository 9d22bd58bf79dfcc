/** A change was refused, since the episode was changed elsewhere: the host chooses. */
import { Button, Dialog, Portal, Text } from "@chakra-ui/react";
import { useStale } from "../api/queries";

export function StaleDialog() {
  const waiting = useStale((s) => s.waiting);
  const close = () => useStale.setState({ waiting: null });
  return (
    <Dialog.Root
      open={waiting !== null}
      role="alertdialog"
      onOpenChange={(e) => !e.open && close()}
    >
      <Portal>
        <Dialog.Backdrop />
        <Dialog.Positioner>
          <Dialog.Content bg="raised">
            <Dialog.Header>
              <Dialog.Title fontFamily="heading">The episode has changed</Dialog.Title>
            </Dialog.Header>
            <Dialog.Body>
              <Text>{waiting?.sentence}</Text>
              <Text mt="2" color="quiet">
                Your change was meant for the times as they were before; they may have moved.
              </Text>
            </Dialog.Body>
            <Dialog.Footer>
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
            </Dialog.Footer>
          </Dialog.Content>
        </Dialog.Positioner>
      </Portal>
    </Dialog.Root>
  );
}
