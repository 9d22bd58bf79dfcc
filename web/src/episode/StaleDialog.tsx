/** Reports a change that was refused, because what it referred to has changed. */
import { Button, Text } from "@chakra-ui/react";
import { useRefused } from "../api/queries";
import { Ask } from "../theme/Ask";

export function StaleDialog() {
  const sentence = useRefused((refused) => refused.sentence);
  const close = () => useRefused.setState({ sentence: null });
  return (
    <Ask
      title="Your last change was not made"
      open={sentence !== null}
      role="alertdialog"
      onClose={close}
      foot={
        <Button colorPalette="pine" onClick={close}>
          Done
        </Button>
      }
    >
      <Text>{sentence}</Text>
    </Ask>
  );
}
