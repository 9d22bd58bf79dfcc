/** The sheet of keys. */
import { CloseButton, Dialog, Kbd, Portal, SimpleGrid, Text } from "@chakra-ui/react";
import { Fragment } from "react";
import { KEY_SHEET } from "./keys";

export function KeySheet({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Dialog.Root open={open} onOpenChange={(e) => !e.open && onClose()} size="sm">
      <Portal>
        <Dialog.Backdrop />
        <Dialog.Positioner>
          <Dialog.Content bg="raised">
            <Dialog.Header>
              <Dialog.Title fontFamily="heading">Keys</Dialog.Title>
            </Dialog.Header>
            <Dialog.Body>
              <SimpleGrid gridTemplateColumns="130px 1fr" rowGap="2">
                {KEY_SHEET.map(([key, what]) => (
                  <Fragment key={key}>
                    <Text>
                      <Kbd>{key}</Kbd>
                    </Text>
                    <Text>{what}</Text>
                  </Fragment>
                ))}
              </SimpleGrid>
            </Dialog.Body>
            <Dialog.CloseTrigger asChild>
              <CloseButton size="sm" />
            </Dialog.CloseTrigger>
          </Dialog.Content>
        </Dialog.Positioner>
      </Portal>
    </Dialog.Root>
  );
}
