/** The cover of an episode. */
import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { useState } from "react";
import { type Episode, Problem, takeBytes } from "../../api/client";
import { FilePick } from "../../theme/FilePick";
import { Sure } from "../../theme/Sure";
import { complain } from "../../theme/toaster";

interface Props {
  episode: Episode;
  onSet: (artwork: string | null) => void;
}

export function Artwork({ episode, onSet }: Props) {
  const [busy, setBusy] = useState(false);
  /** A picture that apps would refuse, and why. */
  const [refused, setRefused] = useState<{ file: File; why: string } | null>(null);
  const bring = async (file: File, fit: boolean) => {
    setBusy(true);
    setRefused(null);
    try {
      const address = `/api/artwork?fit=${fit}`;
      onSet((await takeBytes<{ artwork: string }>("POST", address, file)).artwork);
    } catch (error) {
      if (fit || !(error instanceof Problem && error.status === 422)) complain(error);
      else setRefused({ file, why: error.message });
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
        <FilePick
          accept="image/jpeg,image/png,image/webp,image/gif"
          testId="artwork-file"
          onPick={([file]) => file && void bring(file, false)}
        >
          {(open) => (
            <Button size="xs" variant="outline" loading={busy} onClick={open}>
              {episode.artwork ? "Change it" : "Choose a picture"}
            </Button>
          )}
        </FilePick>
        {episode.artwork && (
          <Button size="xs" variant="ghost" color="quiet" onClick={() => onSet(null)}>
            Remove
          </Button>
        )}
      </Flex>
      {refused && (
        <Sure
          title="Apps would not take this picture"
          no="Leave it as it was"
          yes="Make it fit"
          onYes={() => void bring(refused.file, true)}
          onClose={() => setRefused(null)}
        >
          {refused.why} Made to fit, it is the middle of it as a square, still, in the colours and
          the size that apps show.
        </Sure>
      )}
    </Box>
  );
}
