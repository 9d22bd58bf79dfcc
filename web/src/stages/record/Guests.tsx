/** Guests from elsewhere: their links, whether they are there, and what comes from them. */
import { Box, Button, Flex, HStack, Input, Text } from "@chakra-ui/react";
import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { client, type Invitation, take } from "../../api/client";
import { keys, useGuests } from "../../api/queries";
import {
  joinCall,
  leaveCall,
  muteVoice,
  type Peer,
  useCall,
  useUnrecorded,
} from "../../record/call";
import { useTape } from "../../record/tape";
import { announce, complain } from "../../theme/toaster";
import { Card, Heading } from "../Panel";

/** Stay in the call of an episode that has guests. */
export function useHostCall(episode: number) {
  const { data } = useGuests(episode);
  const expected = (data ?? []).some((guest) => !guest.revoked);
  useEffect(() => {
    if (expected) joinCall(`/api/episodes/${episode}/call`);
    else leaveCall();
  }, [episode, expected]);
  // Looking at another stage while recording does not leave the guests alone.
  useEffect(
    () => () => {
      if (!useTape.getState().recording) leaveCall();
    },
    [],
  );
}

export function Guests({ episode }: { episode: number }) {
  const { data } = useGuests(episode);
  const peers = useCall((c) => c.peers);
  const guests = (data ?? []).filter((guest) => !guest.revoked);
  const closed = (data ?? []).filter((guest) => guest.revoked);
  return (
    <>
      <Heading>Guests from elsewhere</Heading>
      <Card data-testid="guests">
        {!guests.length && (
          <Text fontSize="13px" color="quiet" mb="3">
            A guest opens your link in a browser: you hear each other, and their own microphone is
            recorded where they are, onto a track of its own.
          </Text>
        )}
        {guests.map((guest) => (
          <One
            key={guest.token}
            episode={episode}
            guest={guest}
            peer={peers.find((p) => p.name === guest.name && !p.host)}
          />
        ))}
        <Invite episode={episode} />
        {closed.map((guest) => (
          <Flex key={guest.token} align="center" justify="space-between" mt="2" gap="2">
            <Text fontSize="13px" color="quiet" truncate>
              {guest.name}: link closed
            </Text>
            <OpenAgain episode={episode} guest={guest} />
          </Flex>
        ))}
      </Card>
    </>
  );
}

/** What a guest is doing, in words; `missed` while the host records without them. */
function doing(peer: Peer | undefined, missed: boolean): string {
  if (missed) {
    if (!peer) return "Not recorded: has left the page";
    return peer.microphone ? "Not recorded" : "Not recorded: the microphone is off";
  }
  if (!peer) return "Not here yet";
  if (peer.recording) return "Recording";
  if (!peer.microphone) return "Here; microphone still off";
  if (peer.reached === "yes") return "Here and ready; you hear each other";
  if (peer.reached === "failed") return "Ready; no way was found to hear each other";
  return "Here and ready";
}

interface OneProps {
  episode: number;
  guest: Invitation;
  peer: Peer | undefined;
}

function One({ episode, guest, peer }: OneProps) {
  const queries = useQueryClient();
  const recording = useTape((t) => t.phase === "recording");
  const left = useUnrecorded().includes(guest.name);
  const missed = left || (recording && peer !== undefined && !peer.recording);
  const link = `${location.origin}${guest.path}`;
  const again = () => queries.invalidateQueries({ queryKey: keys.guests(episode) });
  const params = { path: { token: guest.token } };
  const close = async () => {
    try {
      await take(client.POST("/api/guests/{token}/close", { params }));
      await again();
      announce(`The link of ${guest.name} is closed.`, () => {
        void take(client.POST("/api/guests/{token}/open", { params })).then(again, complain);
      });
    } catch (error) {
      complain(error);
    }
  };
  const copy = () =>
    navigator.clipboard.writeText(link).then(
      () => announce("The link is copied. Send it to your guest."),
      () => complain(new Error(`Copy it by hand: ${link}`)),
    );
  return (
    <Box mb="3" data-testid="guest">
      <Flex align="center" gap="2">
        <Voice level={peer?.level ?? 0} />
        <Box flex="1" minW="0">
          <Text fontWeight="700" truncate>
            {guest.name}
          </Text>
          <Text
            fontSize={missed ? "14px" : "12px"}
            fontWeight={missed ? "700" : undefined}
            color={missed || peer?.recording ? "trouble" : "quiet"}
          >
            {doing(peer, missed)}
          </Text>
        </Box>
      </Flex>
      <Input size="xs" mt="2" readOnly value={link} aria-label={`Link for ${guest.name}`} />
      <HStack mt="2" gap="1">
        <Button size="xs" variant="outline" onClick={() => void copy()}>
          Copy the link
        </Button>
        {peer && <MuteVoice peer={peer} />}
        <Button size="xs" variant="ghost" color="quiet" onClick={() => void close()}>
          Close the link
        </Button>
      </HStack>
    </Box>
  );
}

/** Not to hear somebody for a while; there once they are heard. */
export function MuteVoice({ peer }: { peer: Peer }) {
  if (peer.reached !== "yes") return null;
  return (
    <Button
      size="xs"
      variant="ghost"
      aria-pressed={peer.muted}
      onClick={() => muteVoice(peer.id, !peer.muted)}
    >
      {peer.muted ? "Hear again" : "Mute"}
    </Button>
  );
}

/** Whether something is heard from somebody: a bar that rises, beside words that say so. */
export function Voice({ level }: { level: number }) {
  const db = 20 * Math.log10(Math.max(level, 1e-4));
  const share = Math.max(0, Math.min(1, (db + 60) / 54));
  return (
    <Box
      role="img"
      aria-label={level > 0.002 ? "Heard" : "Quiet"}
      data-heard={level > 0.002}
      w="6px"
      h="30px"
      bg="wash"
      borderRadius="3px"
      position="relative"
      flexShrink="0"
      overflow="hidden"
    >
      <Box position="absolute" bottom="0" insetX="0" h={`${share * 100}%`} bg="pine.solid" />
    </Box>
  );
}

function OpenAgain({ episode, guest }: { episode: number; guest: Invitation }) {
  const queries = useQueryClient();
  return (
    <Button
      size="xs"
      variant="ghost"
      onClick={() =>
        void take(
          client.POST("/api/guests/{token}/open", { params: { path: { token: guest.token } } }),
        ).then(() => queries.invalidateQueries({ queryKey: keys.guests(episode) }), complain)
      }
    >
      Open again
    </Button>
  );
}

function Invite({ episode }: { episode: number }) {
  const queries = useQueryClient();
  const [name, setName] = useState("");
  const invite = () =>
    take(
      client.POST("/api/episodes/{episode_id}/guests", {
        params: { path: { episode_id: episode } },
        body: { name: name.trim() },
      }),
    ).then(() => {
      setName("");
      return queries.invalidateQueries({ queryKey: keys.guests(episode) });
    }, complain);
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        if (name.trim()) void invite();
      }}
    >
      <HStack>
        <Input
          size="sm"
          placeholder="Name of the guest"
          aria-label="Name of the guest"
          maxLength={80}
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
        <Button size="sm" type="submit" variant="outline" disabled={!name.trim()}>
          Make a link
        </Button>
      </HStack>
    </form>
  );
}
