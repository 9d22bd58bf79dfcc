/** The setups of a show, below its episodes. */
import { Button, Flex, Text } from "@chakra-ui/react";
import { useRef, useState } from "react";
import { useOpenSetup, useSetups } from "../api/setups";
import { announce } from "../theme/toaster";
import { SetupSheet } from "./SetupSheet";

export function Setups({ show }: { show: number }) {
  const { data: setups = [] } = useSetups(show);
  const [open, setOpen] = useState<number | null>(null);
  const opening = useOpenSetup(show);
  const field = useRef<HTMLInputElement>(null);
  const shown = setups.find((one) => one.id === open);
  return (
    <Flex align="center" gap="2" pt="3" wrap="wrap" data-testid="setups">
      <Text fontSize="13px" color="quiet">
        {setups.length
          ? "New episodes begin from:"
          : "No setup yet. Keep one from the Rundown of an episode, and new ones begin with its parts and sounds."}
      </Text>
      {setups.map((setup) => (
        <Button key={setup.id} size="2xs" variant="outline" onClick={() => setOpen(setup.id)}>
          {setup.name}
        </Button>
      ))}
      <Button
        size="2xs"
        variant="ghost"
        color="quiet"
        loading={opening.isPending}
        onClick={() => field.current?.click()}
      >
        Open a setup file
      </Button>
      <input
        ref={field}
        type="file"
        hidden
        accept=".zip"
        data-testid="open-setup"
        onChange={(event) => {
          const [file] = event.target.files ?? [];
          event.target.value = "";
          if (!file) return;
          opening.mutate(file, {
            onSuccess: ({ name }) => announce(`“${name}” is one of this show’s setups now.`),
          });
        }}
      />
      {shown && <SetupSheet setup={shown} show={show} onClose={() => setOpen(null)} />}
    </Flex>
  );
}
