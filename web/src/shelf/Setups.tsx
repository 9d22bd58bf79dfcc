/** The setups of a show, below its episodes. */
import { Button, Flex, Text } from "@chakra-ui/react";
import { useState } from "react";
import { useOpenSetup, useSetups } from "../api/setups";
import { FilePick } from "../theme/FilePick";
import { announce } from "../theme/toaster";
import { SetupSheet } from "./SetupSheet";

export function Setups({ show }: { show: number }) {
  const { data: setups = [] } = useSetups(show);
  const [open, setOpen] = useState<number | null>(null);
  const opening = useOpenSetup(show);
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
      <FilePick
        accept=".zip"
        testId="open-setup"
        onPick={([file]) =>
          file &&
          opening.mutate(file, {
            onSuccess: ({ name }) => announce(`“${name}” is one of this show’s setups now.`),
          })
        }
      >
        {(open) => (
          <Button
            size="2xs"
            variant="ghost"
            color="quiet"
            loading={opening.isPending}
            onClick={open}
          >
            Open a setup file
          </Button>
        )}
      </FilePick>
      {shown && <SetupSheet setup={shown} show={show} onClose={() => setOpen(null)} />}
    </Flex>
  );
}
