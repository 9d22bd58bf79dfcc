/** Keeping what this episode has as a setup for those to come. */
import { Button, Input, Text } from "@chakra-ui/react";
import { useState } from "react";
import type { Episode } from "../../api/client";
import { useKeepSetup, useSetups } from "../../api/setups";
import { Ask } from "../../theme/Ask";
import { announce } from "../../theme/toaster";

export function KeepSetup({ episode }: { episode: Episode }) {
  const [open, setOpen] = useState(false);
  const [typed, setTyped] = useState<string | null>(null);
  const { data: setups = [] } = useSetups(episode.show_id);
  const name = typed ?? setups[0]?.name ?? episode.show;
  const keep = useKeepSetup(episode.show_id, episode.id);
  const there = setups.some((one) => one.name === name.trim());
  const save = () =>
    keep.mutate(
      { revision: episode.revision, name: name.trim() },
      {
        onSuccess: ({ left_out }) => {
          setOpen(false);
          const times =
            left_out === 1 ? " A sound that holds to a time is" : " Sounds that hold to a time are";
          announce(
            `New episodes can begin from “${name.trim()}”.${left_out ? `${times} not in it.` : ""}`,
          );
        },
      },
    );
  return (
    <>
      <Button
        size="sm"
        variant="ghost"
        color="quiet"
        onClick={() => {
          setTyped(null);
          setOpen(true);
        }}
      >
        Keep as a setup
      </Button>
      <Ask
        title="Keep as a setup"
        open={open}
        onClose={() => setOpen(false)}
        foot={
          <>
            <Button variant="ghost" onClick={() => setOpen(false)}>
              Cancel
            </Button>
            <Button
              colorPalette="pine"
              loading={keep.isPending}
              disabled={!name.trim()}
              onClick={save}
            >
              {there ? "Replace it" : "Keep it"}
            </Button>
          </>
        }
      >
        <Text mb="3" fontSize="14px">
          The names of the parts with their sounds, tracks with their chains, loudness and tags: new
          episodes begin with them. Nothing that was said is in it.
        </Text>
        <Input
          aria-label="Name of the setup"
          value={name}
          maxLength={120}
          onChange={(event) => setTyped(event.target.value)}
          onKeyDown={(event) => event.key === "Enter" && name.trim() && save()}
        />
        {there && (
          <Text mt="2" fontSize="13px" color="quiet">
            There is one of that name: it is replaced. Episodes begun from it stay as they are.
          </Text>
        )}
      </Ask>
    </>
  );
}
