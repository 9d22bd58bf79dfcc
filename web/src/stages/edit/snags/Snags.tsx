/** Snags: what the listener should not hear, one after another, each settled by one key. */
import { Box, Button, HStack, Text } from "@chakra-ui/react";
import { useEffect } from "react";
import type { Context } from "../../../actions/action";
import { listed, nameOf } from "../../../actions/deciding";
import { useSnags } from "../../../api/queries";
import { seconds } from "../../../time";
import { useView } from "../../../view/view";
import { Chosen } from "./Chosen";
import { Filter } from "./Filter";
import { HeldAgainstScript } from "./Held";
import { List } from "./List";
import { Review } from "./Review";
import { Rules } from "./Rules";
import { TidyButton } from "./Tidy";

export function Snags({ context }: { context: Context }) {
  const { episode } = context;
  const { data } = useSnags(episode.id, episode.revision);
  const of = useView((v) => v.snagsOf);
  const current = useView((v) => v.snag);
  const review = useView((v) => v.reviewing);
  const setReview = (reviewing: boolean) => useView.setState({ reviewing });
  useEffect(() => {
    useView.setState({ snags: (data?.snags ?? []).filter((s) => !s.kept) });
    return () => useView.setState({ snags: [] });
  }, [data]);
  if (!data) {
    return (
      <Text color="quiet" fontSize="13px" role="status">
        Looking for snags
      </Text>
    );
  }
  const open = data.snags.filter((s) => !s.kept);
  const list = listed(data.snags, of);
  const chosen = data.snags.find((s) => s.id === current);
  const saves = open.reduce((sum, snag) => sum + snag.saves, 0);
  return (
    <Box data-testid="snags">
      <Text fontSize="13px" role="status">
        {open.length === 0 ? (
          data.complete ? (
            "No snag is left."
          ) : (
            "The words are still being written down; snags come with them."
          )
        ) : (
          <>
            <b>{open.length === 1 ? "1 snag" : `${open.length} snags`}</b>
            {saves > 0 && ` · ${seconds(saves)} to save`}
            {!data.complete && " so far; words are still on their way"}
          </>
        )}
      </Text>
      <HStack gap="1.5" my="2">
        {data.tidy.map((tidy) => (
          <TidyButton key={tidy.how} episode={episode} tidy={tidy} kinds={data.kinds} />
        ))}
      </HStack>
      <Filter data={data} of={of} />
      {review ? (
        <Review context={context} list={list} onDone={() => setReview(false)} />
      ) : (
        <>
          {chosen && !chosen.kept && (
            <Chosen context={context} snag={chosen} name={nameOf(chosen, data.kinds)} />
          )}
          <List episode={episode} list={list} kinds={data.kinds} current={current} />
          {of.kind !== "all" && of.kind !== "kept" && list.some((s) => s.does !== "keep") && (
            <Button size="xs" variant="outline" mt="2" w="100%" onClick={() => setReview(true)}>
              Settle all {list.length} of them at once
            </Button>
          )}
        </>
      )}
      <Rules context={context} data={data} />
      <HeldAgainstScript episode={episode} />
    </Box>
  );
}
