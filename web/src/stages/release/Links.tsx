/** One thing in several forms, each a file to download. */
import { Button, Flex } from "@chakra-ui/react";

interface Props {
  /** By the name of a form, what it is called. */
  forms: Record<string, string>;
  address: (form: string) => string;
}

export const Links = ({ forms, address }: Props) => (
  <Flex gap="1.5" wrap="wrap">
    {Object.entries(forms).map(([form, says]) => (
      <Button key={form} asChild size="xs" variant="outline">
        <a href={address(form)} download>
          {says}
        </a>
      </Button>
    ))}
  </Flex>
);
