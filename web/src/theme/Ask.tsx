/** A sheet over the page, with a title and what can be done at its foot. */
import { CloseButton, Dialog, Portal } from "@chakra-ui/react";
import type { ReactNode } from "react";

interface Props extends Omit<Dialog.RootProps, "onOpenChange" | "children"> {
  title: ReactNode;
  children: ReactNode;
  /** Its buttons. */
  foot: ReactNode;
  /** A cross at its corner, where it is not one of the buttons that closes it. */
  cross?: boolean;
  onClose: () => void;
}

export function Ask({ title, children, foot, cross, onClose, ...root }: Props) {
  return (
    <Dialog.Root {...root} onOpenChange={({ open }) => open || onClose()}>
      <Portal>
        <Dialog.Backdrop />
        <Dialog.Positioner>
          <Dialog.Content bg="raised" maxH="88vh">
            <Dialog.Header pb="2">
              <Dialog.Title fontFamily="heading">{title}</Dialog.Title>
            </Dialog.Header>
            <Dialog.Body overflowY="auto">{children}</Dialog.Body>
            <Dialog.Footer>{foot}</Dialog.Footer>
            {cross && (
              <Dialog.CloseTrigger asChild>
                <CloseButton size="sm" />
              </Dialog.CloseTrigger>
            )}
          </Dialog.Content>
        </Dialog.Positioner>
      </Portal>
    </Dialog.Root>
  );
}
