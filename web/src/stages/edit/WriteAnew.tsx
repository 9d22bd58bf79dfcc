/** The words of a recording written down anew: by the quick or the careful recogniser, in a language. */
import { Button, Flex, HStack, Text } from "@chakra-ui/react";
import { useState } from "react";
import type { Episode, Schemas } from "../../api/client";
import { client, take as taken } from "../../api/client";
import { useRecognisers } from "../../api/queries";
import { Pick } from "../../theme/Pick";
import { announce, complain } from "../../theme/toaster";

type Recogniser = Schemas["RecogniserView"]["name"];
type Take = Episode["takes"][number];

const SAYS: Record<Recogniser, string> = { quick: "Quick", careful: "Careful, slower" };

const names = new Intl.DisplayNames(["en"], { type: "language", fallback: "none" });
/** A language by its code, as people call it. */
const languageName = (code: string) => names.of(code) ?? code;

/** In which language the words of a recording are, and what wrote them. */
const asWritten = ({ language, recogniser }: Take) =>
  [language && languageName(language), recogniser && `${recogniser} recogniser`]
    .filter(Boolean)
    .join(", ");

export function WriteAnew({ take }: { take: Take }) {
  const [open, setOpen] = useState(false);
  const written = asWritten(take);
  return (
    <>
      {written && (
        <Text fontSize="12px" color="quiet" data-testid="written">
          {written}
        </Text>
      )}
      {take.transcribed && !open && (
        <Button size="2xs" variant="ghost" px="0" mr="3" onClick={() => setOpen(true)}>
          Write the words anew…
        </Button>
      )}
      {open && <Choice take={take} onDone={() => setOpen(false)} />}
    </>
  );
}

function Choice({ take, onDone }: { take: Take; onDone: () => void }) {
  const { data: recognisers } = useRecognisers();
  const [name, setName] = useState<Recogniser | null>(null);
  const [language, setLanguage] = useState("");
  if (!recognisers) return null;
  const best = recognisers.at(-1);
  const chosen = recognisers.find((one) => one.name === name) ?? best;
  if (!chosen) return null;
  const several = chosen.languages.length > 1;
  const languages = chosen.languages
    .map((code) => [code, languageName(code)] as const)
    .sort(([, a], [, b]) => a.localeCompare(b));
  const known = chosen.languages.includes(language);
  const start = () => {
    const path = { take_id: take.id };
    const body = { recogniser: chosen.name, language: known ? language : "" };
    taken(client.POST("/api/takes/{take_id}/words", { params: { path }, body }))
      .then(() =>
        announce("The words are being written down anew; those of before stay till then."),
      )
      .catch(complain);
    onDone();
  };
  return (
    <Flex direction="column" gap="1.5" my="1">
      <HStack gap="1.5">
        <Pick
          name="Recogniser"
          value={chosen.name}
          options={recognisers.map((one) => [one.name, SAYS[one.name]] as const)}
          onPick={setName}
        />
        {several && (
          <Pick
            name="Language"
            value={known ? language : ""}
            options={[["", "Any language"], ...languages]}
            onPick={setLanguage}
          />
        )}
      </HStack>
      {!several && recognisers.length < 2 && (
        <Text fontSize="12px" color="quiet">
          English alone is installed. The careful recogniser knows many languages: pip install
          airtrim[careful]
        </Text>
      )}
      <HStack gap="1.5">
        <Button size="xs" colorPalette="pine" onClick={start}>
          Write them
        </Button>
        <Button size="xs" variant="outline" onClick={onDone}>
          Leave them
        </Button>
      </HStack>
    </Flex>
  );
}
