/** Who speaks from here on. A voice that was told apart gets its name by a press; a name is changed. */
import { Button, HStack, Input, Text } from "@chakra-ui/react";
import { type CSSProperties, useState } from "react";
import type { Edit, Word } from "../api/client";
import { OnLine } from "./OnLine";

interface Props {
  /** The first word that is said from here on. */
  word: Word;
  /** What its track is called: who speaks where nobody else is named. */
  own: string;
  style?: CSSProperties;
  onEdit: (edit: Edit) => void;
}

/** Whether a word's voice was told apart from others and nobody has named it. */
export const isUnnamed = (word: Word) => !!word.voice && word.speaker === `Voice ${word.voice}`;

/** Give everything that the speaker of a word says another name. */
export const named = (word: Word, name: string): Edit =>
  isUnnamed(word)
    ? { kind: "name_voice", take: word.take, voice: word.voice ?? "", name }
    : { kind: "rename_speaker", old: word.speaker ?? "", new: name };

export function Says({ word, own, style, onEdit }: Props) {
  const [open, setOpen] = useState(false);
  if (!word.speaker) {
    return (
      <span className="at-says" style={style}>
        {own}
      </span>
    );
  }
  const unnamed = isUnnamed(word);
  const chip = (
    <button
      type="button"
      className="at-says"
      data-unnamed={unnamed ? "" : undefined}
      style={style}
      title={unnamed ? "Who is this? Click to name this voice." : "Click to change the name."}
    >
      {word.speaker}
    </button>
  );
  return (
    <OnLine trigger={chip} label="Who speaks" open={open} onOpen={setOpen}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          const name = String(new FormData(event.currentTarget).get("name")).trim();
          setOpen(false);
          if (name && name !== word.speaker) onEdit(named(word, name));
        }}
      >
        <Text fontSize="12px" color="quiet" mb="1">
          {unnamed ? `Who is ${word.speaker}? All it says gets this name.` : "Named everywhere:"}
        </Text>
        <HStack gap="1">
          <Input
            name="name"
            size="xs"
            w="150px"
            aria-label={`Name of ${word.speaker}`}
            placeholder={unnamed ? own : undefined}
            defaultValue={unnamed ? "" : word.speaker}
            maxLength={80}
          />
          <Button size="xs" type="submit" colorPalette="pine">
            Name
          </Button>
        </HStack>
      </form>
    </OnLine>
  );
}
