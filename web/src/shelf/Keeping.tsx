/** What becomes of all that is kept: when it was backed up last, and what was deleted. */
import { Box, Button, Flex, HStack, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { client, type Schemas, take } from "../api/client";
import { keys } from "../api/queries";
import { announce } from "../theme/toaster";
import { dayOf, instant, megabytes } from "../time";
import { useCarry } from "./carry";
import { Space } from "./Space";
import { Twice } from "./Twice";

type Deleted = Schemas["DeletedView"];

const DAY_MS = 24 * 3600 * 1000;

/** A time gone by, in the words one would say. */
function ago(at: string): string {
  const days = Math.floor((Date.now() - instant(at).getTime()) / DAY_MS);
  if (days < 1) return "today";
  return days === 1 ? "yesterday" : `${days} days ago`;
}

export function Keeping({ onBack }: { onBack: (episode: number) => Promise<unknown> }) {
  const { data } = useQuery({
    queryKey: [...keys.shows, "keeping"],
    queryFn: () => take(client.GET("/api/keeping")),
  });
  if (!data) return null;
  const late =
    !data.backed_up_at || Date.now() - instant(data.backed_up_at).getTime() > 14 * DAY_MS;
  return (
    <Box as="footer" mt="4" fontSize="13px" color="quiet" data-testid="keeping">
      {data.deleted.length > 0 && <DeletedOnes deleted={data.deleted} onBack={onBack} />}
      <Space />
      <Text>
        {data.backed_up_at
          ? `Backed up ${ago(data.backed_up_at)}.`
          : "Not backed up yet. This is the only copy of your recordings."}
        {late && (
          <>
            {" "}
            <code>airtrim backup FOLDER</code> copies everything, also while Air Trim runs.
          </>
        )}
      </Text>
    </Box>
  );
}

function DeletedOnes({
  deleted,
  onBack,
}: {
  deleted: Deleted[];
  onBack: (episode: number) => Promise<unknown>;
}) {
  const carry = useCarry();
  const bytes = deleted.reduce((sum, one) => sum + one.bytes, 0);
  const empty = async () => {
    const freed = await carry(take(client.POST("/api/keeping/empty")));
    if (freed) announce(`${megabytes(freed.bytes)} are free again.`);
  };
  return (
    <Box as="details" mb="5" data-testid="deleted">
      <Box as="summary" cursor="pointer">
        {deleted.length === 1 ? "1 deleted episode" : `${deleted.length} deleted episodes`},{" "}
        {megabytes(bytes)}
      </Box>
      <Box mt="1" mb="2" ps="4">
        {deleted.map((one) => (
          <Flex
            key={one.id}
            align="center"
            gap="3"
            py="1"
            borderBottomWidth="1px"
            borderColor="rule"
          >
            <Text flex="1" minW="0" truncate color="ink">
              {one.title}
            </Text>
            <Text whiteSpace="nowrap">
              {one.show} · {megabytes(one.bytes)} · kept until {dayOf(one.goes_at)}
            </Text>
            <Button size="xs" variant="ghost" onClick={() => void onBack(one.id)}>
              Bring back
            </Button>
          </Flex>
        ))}
        <HStack mt="2" gap="2">
          <Twice but="This cannot be undone." trouble yes="Delete for good" onYes={empty}>
            Empty now
          </Twice>
        </HStack>
      </Box>
    </Box>
  );
}
