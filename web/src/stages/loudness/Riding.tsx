/** Phrases brought nearer to each other, and music held under the talk. */
import { Button, Text } from "@chakra-ui/react";
import { useState } from "react";
import { type Episode, type Schemas, underWay } from "../../api/client";
import { startRide, useJobs } from "../../api/queries";
import { Dial } from "../../theme/Dial";
import { complain } from "../../theme/toaster";
import { Card, Heading } from "../Panel";

export function Riding({ episode }: { episode: Episode }) {
  const { data: jobs } = useJobs(episode.id);
  const [share, setShare] = useState(80);
  const [most, setMost] = useState(8);
  const [rate, setRate] = useState(10);
  const [under, setUnder] = useState(-18);
  const [alone, setAlone] = useState(-4);
  const busy = jobs?.some((j) => j.kind === "ride" && underWay(j));
  const start = (what: Pick<Schemas["RideRequest"], "riding" | "bed">) =>
    void startRide(episode.id, { revision: episode.revision, ...what }).catch(complain);
  const music = episode.tracks.some((t) => t.kind === "music" && t.frames > 0);
  const dial = (value: number, put: (v: number) => void) => ({ value, onTry: put, onSet: put });
  return (
    <>
      <Heading>Between phrases</Heading>
      <Card>
        <Dial says="How much" unit="%" low={10} high={100} step={5} {...dial(share, setShare)} />
        <Dial
          says="At most"
          unit="dB"
          low={1}
          high={12}
          step={0.5}
          digits={1}
          {...dial(most, setMost)}
        />
        <Dial
          says="No faster than"
          unit="dB/s"
          low={2}
          high={20}
          step={1}
          {...dial(rate, setRate)}
        />
        <Button
          mt="2"
          w="100%"
          size="sm"
          variant="outline"
          loading={Boolean(busy)}
          onClick={() => start({ riding: { share: share / 100, most_db: most, rate_db_s: rate } })}
        >
          Even out phrases
        </Button>
        <Text mt="2" fontSize="12px" color="quiet">
          Writes gain points on each voice, on top of those that are there. See and change them on
          the Edit stage. Pauses are never raised by more than 3 dB.
        </Text>
      </Card>
      {music && (
        <>
          <Heading>Music under the talk</Heading>
          <Card>
            <Dial
              says="Under a voice"
              unit="LU"
              low={-40}
              high={0}
              step={1}
              {...dial(under, setUnder)}
            />
            <Dial
              says="By itself"
              unit="LU"
              low={-30}
              high={6}
              step={1}
              {...dial(alone, setAlone)}
            />
            <Button
              mt="2"
              w="100%"
              size="sm"
              variant="outline"
              loading={Boolean(busy)}
              onClick={() => start({ bed: { under_lu: under, alone_lu: alone } })}
            >
              Hold it under the talk
            </Button>
            <Text mt="2" fontSize="12px" color="quiet">
              Against the voices’ loudness. Sets all gain points of the music.
            </Text>
          </Card>
        </>
      )}
    </>
  );
}
