/** The cover of an episode. */
import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { useRef, useState } from "react";
import { type Episode, takeBytes } from "../../api/client";
import { complain } from "../../theme/toaster";

interface Props {
  episode: Episode;
  onSet: (artwork: string | null) => void;
}

export function Artwork({ episode, onSet }: Props) {
  const field = useRef<HTMLInputElement>(null);
  const [busy, setBusy] = useState(false);
  const bring = async (file: File) => {
    setBusy(true);
    try {
      onSet((await takeBytes<{ artwork: string }>("POST", "/api/artwork", file)).artwork);
    } catch (error) {
      complain(error);
    } finally {
      setBusy(false);
    }
  };
  return (
    <Box w="200px" flexShrink="0">
      <Text fontSize="13px" fontWeight="500" mb="1.5">
        Artwork
      </Text>
      <Flex
        w="200px"
        h="200px"
        align="center"
        justify="center"
        bg="wash"
        borderRadius="8px"
        overflow="hidden"
        borderWidth="1px"
        borderColor="rule"
      >
        {episode.artwork ? (
          <img
            src={`/api/artwork/${episode.artwork}`}
            alt="Cover of this episode"
            width={200}
            height={200}
          />
        ) : (
          <Text color="quiet" fontSize="13px" textAlign="center" px="4">
            Square, JPEG or PNG, 1400 to 3000 pixels
          </Text>
        )}
      </Flex>
      <Flex gap="2" mt="2">
        <Button size="xs" variant="outline" loading={busy} onClick={() => field.current?.click()}>
          {episode.artwork ? "Change it" : "Choose a picture"}
        </Button>
        {episode.artwork && (
          <Button size="xs" variant="ghost" color="quiet" onClick={() => onSet(null)}>
            Remove
          </Button>
        )}
      </Flex>
      <input
        ref={field}
        type="file"
        hidden
        accept="image/jpeg,image/png"
        data-testid="artwork-file"
        onChange={(event) => {
          const file = event.target.files?.[0];
          if (file) void bring(file);
          event.target.value = "";
        }}
      />
    </Box>
  );
}
