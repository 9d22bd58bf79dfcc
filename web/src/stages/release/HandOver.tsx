/** Handing files over: to which destination, how far each is, and publishing what is a draft. */
import { Box, Button, Flex, Input, Text } from "@chakra-ui/react";
import { useState } from "react";
import { type Episode, type Job, underWay } from "../../api/client";
import {
  type Destination,
  type HandOver as Row,
  useDestinations,
  useHandingOver,
  useHandOvers,
} from "../../api/handing";
import { useJobs } from "../../api/queries";
import { LabelledPick } from "../../theme/Pick";
import { Sure } from "../../theme/Sure";
import { momentOf } from "../../time";
import { Card, Heading } from "../Panel";
import { Busy } from "./Busy";

const STATES: Record<Row["state"], string> = {
  sending: "On its way",
  draft: "A draft: nobody sees it yet",
  scheduled: "A draft, published by itself",
  publishing: "Being published",
  published: "Public",
  failed: "Did not arrive",
  overdue: "Not published at its time",
};

interface Finished {
  key: string;
  export: string;
  file: number;
  says: string;
  revision: number;
}

/** Finished files, newest first. */
function finished(jobs: Job[]): Finished[] {
  return jobs
    .filter((job) => job.kind === "export" && job.state === "done")
    .reverse()
    .flatMap((job) => {
      const params = job.params as unknown as { file_name: string; revision: number };
      const reports =
        (job.result as unknown as { files?: { label: string }[] } | null)?.files ?? [];
      return reports.map((report, file) => ({
        key: `${job.id}:${file}`,
        export: job.id,
        file,
        revision: params.revision,
        says: `${report.label}, ${momentOf(job.created_at)}`,
      }));
    });
}

export function HandOver({ episode }: { episode: Episode }) {
  const { data: jobs = [] } = useJobs(episode.id);
  const { data: kept } = useDestinations(episode.show_id);
  const { data: rows = [] } = useHandOvers(episode.id);
  const { send } = useHandingOver(episode);
  const [where, setWhere] = useState<string | null>(null);
  const [which, setWhich] = useState<string | null>(null);
  const [again, setAgain] = useState(false);
  const destinations = kept?.destinations ?? [];
  const files = finished(jobs);
  const destination = destinations.find(({ id }) => String(id) === where) ?? destinations[0];
  const file = files.find(({ key }) => key === which) ?? files[0];
  const there = rows.some(
    (row) =>
      row.destination === destination?.id &&
      row.revision === file?.revision &&
      row.state !== "failed",
  );
  const go = () => {
    if (!destination || !file) return;
    send.mutate({
      destination: destination.id,
      export: file.export,
      file: file.file,
      again: there,
    });
  };
  return (
    <Box maxW="820px" data-testid="hand-over">
      <Heading>Hand over</Heading>
      <Text fontSize="13px" color="quiet" mb="3">
        What arrives is read back and compared with what was sent, byte by byte.
      </Text>
      {!destinations.length && (
        <Text mb="3">Keep a destination on the right first: a host, a server or a folder.</Text>
      )}
      {!files.length && <Text mb="3">There is no file yet. Make one in step 3.</Text>}
      {destination && file && (
        <Card>
          <LabelledPick
            name="File"
            value={file.key}
            options={files.map(({ key, says }) => [key, says] as const)}
            onPick={setWhich}
          />
          <LabelledPick
            name="To"
            value={String(destination.id)}
            options={destinations.map(({ id, name }) => [String(id), name] as const)}
            onPick={setWhere}
          />
          {file.revision !== episode.revision && (
            <Text mt="2" fontSize="13px" color="trouble" role="status">
              This file is not of the episode as it is now.
            </Text>
          )}
          {!destination.drafts && (
            <Text mt="2" fontSize="13px" color="trouble" fontWeight="700">
              Everybody can get it there as soon as it has arrived.
            </Text>
          )}
          <Button
            mt="3"
            size="sm"
            colorPalette="pine"
            loading={send.isPending}
            onClick={() => (there ? setAgain(true) : go())}
          >
            {destination.drafts ? "Hand over as a draft" : "Hand over, public at once"}
          </Button>
        </Card>
      )}
      {rows.map((row) => (
        <HandedOver key={row.id} episode={episode} row={row} jobs={jobs} all={destinations} />
      ))}
      {again && (
        <Sure
          title="It is there already"
          no="Leave it"
          yes="Hand it over once more"
          onYes={go}
          onClose={() => setAgain(false)}
        >
          This state of the episode was handed over to {destination?.name} before.
        </Sure>
      )}
    </Box>
  );
}

/** Where what was handed over can be looked at: a whole address, or one on its host. */
const pageOf = (page: string, host: string) =>
  /^https?:/.test(page) ? page : `${host.replace(/\/$/, "")}${page}`;

interface RowProps {
  episode: Episode;
  row: Row;
  jobs: Job[];
  all: Destination[];
}

function HandedOver({ episode, row, jobs, all }: RowProps) {
  const { again, publish, schedule } = useHandingOver(episode);
  const [asking, setAsking] = useState(false);
  const [at, setAt] = useState("");
  const job = jobs.findLast(
    (one) =>
      (one.kind === "hand_over" || one.kind === "publish") &&
      (one.params as { hand_over?: string }).hand_over === row.id,
  );
  const busy = job && underWay(job);
  const address = all.find(({ id }) => id === row.destination)?.address.url ?? "";
  const draft = ["draft", "scheduled", "overdue"].includes(row.state);
  const failed = row.state === "failed" || row.state === "overdue";
  return (
    <Card data-testid="handed-over" data-state={row.state}>
      <Flex gap="2" align="baseline">
        <Text flex="1" fontWeight="700">
          {row.where}
        </Text>
        <Text fontSize="13px" color={failed ? "trouble" : "quiet"}>
          {STATES[row.state]}
          {row.publish_at && ` on ${momentOf(row.publish_at)}`}
        </Text>
      </Flex>
      {row.state === "scheduled" && (
        <Text mt="1" fontSize="13px" color="quiet">
          {row.retry_at && row.retry_until
            ? `Next attempt ${momentOf(row.retry_at)}, last attempt ${momentOf(row.retry_until)}.`
            : "Air Trim must run then. If it does not, the episode is published at its next start."}
        </Text>
      )}
      {busy && <Busy job={job} />}
      {!busy && row.error && (
        <Text mt="1" fontSize="13px" color="trouble">
          {row.error}
        </Text>
      )}
      {!busy && (
        <Flex gap="2" mt="2" align="center" wrap="wrap">
          {row.state === "failed" && (
            <Button size="xs" colorPalette="pine" onClick={() => again.mutate(row.id)}>
              Try again
            </Button>
          )}
          {draft && (
            <>
              <Button size="xs" colorPalette="pine" onClick={() => setAsking(true)}>
                Publish
              </Button>
              {row.state === "scheduled" ? (
                <Button
                  size="xs"
                  variant="outline"
                  onClick={() => schedule.mutate({ id: row.id, at: null })}
                >
                  Cancel schedule
                </Button>
              ) : (
                <>
                  <Input
                    size="xs"
                    w="190px"
                    type="datetime-local"
                    aria-label="When to publish it"
                    value={at}
                    onChange={(event) => setAt(event.target.value)}
                  />
                  <Button
                    size="xs"
                    variant="outline"
                    disabled={!at}
                    onClick={() => schedule.mutate({ id: row.id, at: new Date(at).toISOString() })}
                  >
                    Publish then
                  </Button>
                </>
              )}
            </>
          )}
          {row.page && address && (
            <Button asChild size="xs" variant="ghost" color="quiet">
              <a href={pageOf(row.page, address)} target="_blank" rel="noreferrer">
                Look at it there
              </a>
            </Button>
          )}
        </Flex>
      )}
      {asking && (
        <Sure
          title="Publish it now?"
          no="Not yet"
          yes="Publish"
          onYes={() => publish.mutate(row.id)}
          onClose={() => setAsking(false)}
        >
          Everybody can hear it at {row.where} then, and apps begin to fetch it. That cannot be
          undone from here.
        </Sure>
      )}
    </Card>
  );
}
