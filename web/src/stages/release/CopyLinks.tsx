/** Links that make a copy of the episode for whoever opens them. */
import { Box, Button, Flex, Input, Text } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, type Episode, take } from "../../api/client";
import { announce, complain } from "../../theme/toaster";

export function CopyLinks({ episode }: { episode: Episode }) {
  const queries = useQueryClient();
  const queryKey = ["copy-links", episode.id];
  const params = { path: { episode_id: episode.id } };
  const { data: links = [] } = useQuery({
    queryKey,
    queryFn: () => take(client.GET("/api/episodes/{episode_id}/copy-links", { params })),
  });
  const onSuccess = () => queries.invalidateQueries({ queryKey });
  const make = useMutation({
    mutationFn: () => take(client.POST("/api/episodes/{episode_id}/copy-links", { params })),
    onSuccess,
    onError: complain,
  });
  const change = useMutation({
    mutationFn: ({ token, back }: { token: string; back: boolean }) => {
      const path = { params: { path: { token } } };
      return take(
        back
          ? client.POST("/api/copy-links/{token}/back", path)
          : client.DELETE("/api/copy-links/{token}", path),
      );
    },
    onSuccess,
    onError: complain,
  });
  return (
    <Box mt="3" data-testid="copy-links">
      <Text fontSize="13px" color="quiet" mb="2">
        A link that gives whoever opens it on this server a copy of their own, never this one.
      </Text>
      {links.map(({ token, path }) => (
        <Flex key={token} gap="1" mb="1">
          <Input
            size="xs"
            readOnly
            aria-label="Link that makes a copy"
            value={`${location.origin}${path}`}
            onFocus={(event) => event.target.select()}
          />
          <Button
            size="xs"
            variant="ghost"
            color="quiet"
            onClick={() =>
              change.mutate(
                { token, back: false },
                {
                  onSuccess: () =>
                    announce("The link leads nowhere now. Copies that were made stay.", () =>
                      change.mutate({ token, back: true }),
                    ),
                },
              )
            }
          >
            Withdraw
          </Button>
        </Flex>
      ))}
      <Button
        size="xs"
        variant="outline"
        loading={make.isPending}
        disabled={!episode.frames}
        onClick={() => make.mutate()}
      >
        Make a link
      </Button>
    </Box>
  );
}
