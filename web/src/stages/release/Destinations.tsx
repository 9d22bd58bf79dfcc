/** The destinations of a show: kept here, used by all of its episodes. */
import { Box, Button, Flex, Input, Text } from "@chakra-ui/react";
import { useState } from "react";
import type { Episode } from "../../api/client";
import {
  useDestinations,
  useDropDestination,
  useKeepDestination,
  type Way,
} from "../../api/handing";
import { LabelledPick } from "../../theme/Pick";
import { Card, Heading } from "../Panel";

const URLS: Record<string, string> = {
  host: "https://host.example",
  folder: "/srv/podcast",
  site: "/srv/www/podcast",
  ftp: "ftps://server.example/folder",
  sftp: "sftp://server.example/folder",
};

const SECRETS: Record<string, string> = {
  host: "Token",
  ftp: "Password",
  sftp: "Password, or private key",
};

const NOTHING = {
  name: "",
  url: "",
  user: "",
  secret: "",
  fingerprint: "",
  base: "",
  about: "",
  email: "",
  category: "",
};

export function Destinations({ episode }: { episode: Episode }) {
  const { data } = useDestinations(episode.show_id);
  const drop = useDropDestination(episode.show_id);
  const [adding, setAdding] = useState(false);
  const ways = data?.ways ?? [];
  return (
    <Box data-testid="destinations">
      <Heading>Destinations</Heading>
      <Card>
        {data?.destinations.map((one) => (
          <Flex key={one.id} gap="2" py="1.5" borderBottomWidth="1px" borderColor="rule">
            <Box flex="1" minW="0">
              <Text fontWeight="700" truncate>
                {one.name}
              </Text>
              <Text fontSize="12px" color="quiet" truncate title={one.address.url}>
                {one.address.url}
              </Text>
            </Box>
            <Button
              size="2xs"
              variant="ghost"
              color="quiet"
              title="Its token or password is forgotten. What is there stays there."
              aria-label={`Remove ${one.name}`}
              onClick={() => drop.mutate(one.id)}
            >
              Remove
            </Button>
          </Flex>
        ))}
        {adding ? (
          <NewDestination episode={episode} ways={ways} onDone={() => setAdding(false)} />
        ) : (
          <Button
            mt="2"
            size="xs"
            variant={data?.destinations.length ? "outline" : "solid"}
            colorPalette={data?.destinations.length ? undefined : "pine"}
            onClick={() => setAdding(true)}
          >
            Add a destination
          </Button>
        )}
      </Card>
    </Box>
  );
}

interface NewProps {
  episode: Episode;
  ways: Way[];
  onDone: () => void;
}

function NewDestination({ episode, ways, onDone }: NewProps) {
  const keep = useKeepDestination(episode.show_id);
  const [chosen, setChosen] = useState("host");
  const [told, setTold] = useState(NOTHING);
  const way = ways.find(({ name }) => name === chosen);
  const field = (name: keyof typeof told, says: string, more: object = {}) => (
    <Box mt="2">
      <Text fontSize="12px" color="quiet">
        {says}
      </Text>
      <Input
        size="sm"
        aria-label={says}
        value={told[name]}
        autoComplete="off"
        onChange={(event) => setTold({ ...told, [name]: event.target.value })}
        {...more}
      />
    </Box>
  );
  const server = chosen === "ftp" || chosen === "sftp";
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        const { name, secret, ...address } = told;
        keep.mutate({ name: name.trim(), way: chosen, address, secret }, { onSuccess: onDone });
      }}
    >
      <LabelledPick
        name="How"
        value={chosen}
        options={ways.map(({ name, title }) => [name, title] as const)}
        onPick={setChosen}
      />
      {way && (
        <Text mt="1" fontSize="12px" color={way.drafts ? "quiet" : "trouble"}>
          {way.drafts
            ? "Takes drafts: nothing is public before you publish it."
            : "Takes no drafts: what arrives is public at once."}
        </Text>
      )}
      {field("name", "Name")}
      {field("url", chosen === "folder" || chosen === "site" ? "Path" : "Address", {
        placeholder: URLS[chosen],
      })}
      {server && field("user", "User")}
      {chosen === "sftp" &&
        field("fingerprint", "Fingerprint of the server’s key", { placeholder: "SHA256:…" })}
      {chosen === "site" && (
        <>
          {field("base", "Address it is served under", {
            placeholder: "https://podcast.example/",
          })}
          {field("about", "What the show is")}
          {field("category", "Category", { placeholder: "Society & Culture" })}
          {field("email", "E-mail of its owner, as platforms ask")}
        </>
      )}
      {way?.needs_secret && field("secret", SECRETS[chosen] ?? "Password", { type: "password" })}
      <Flex gap="2" mt="3">
        <Button
          size="xs"
          type="submit"
          colorPalette="pine"
          loading={keep.isPending}
          disabled={!told.name.trim() || !told.url.trim()}
        >
          Keep it
        </Button>
        <Button size="xs" variant="ghost" onClick={onDone}>
          Cancel
        </Button>
      </Flex>
    </form>
  );
}
