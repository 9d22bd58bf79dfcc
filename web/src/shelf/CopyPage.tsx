/** What a link that makes a copy leads to. */
import { Button, Flex, Text } from "@chakra-ui/react";
import { useMutation, useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "react-router";
import { client, take } from "../api/client";
import { complain } from "../theme/toaster";

export function CopyPage() {
  const { token = "" } = useParams();
  const go = useNavigate();
  const params = { path: { token } };
  const { data, error } = useQuery({
    queryKey: ["copy", token],
    queryFn: () => take(client.GET("/api/copies/{token}", { params })),
  });
  const make = useMutation({
    mutationFn: () => take(client.POST("/api/copies/{token}", { params })),
    onSuccess: ({ id }) => go(`/episodes/${id}/edit`),
    onError: complain,
  });
  return (
    <Flex
      direction="column"
      h="100%"
      align="center"
      justify="center"
      gap="4"
      px="6"
      textAlign="center"
    >
      {data && (
        <>
          <Text as="h1" fontFamily="heading" fontWeight="700" fontSize="26px">
            {data.episode}
          </Text>
          <Text color="quiet">{data.show}</Text>
          <Text maxW="440px">
            This link gives you a copy of your own, with every recording and every change. The
            original stays as it is, whatever you do.
          </Text>
          <Button
            size="lg"
            colorPalette="pine"
            loading={make.isPending}
            onClick={() => make.mutate()}
          >
            Make my copy
          </Button>
        </>
      )}
      {error && (
        <>
          <Text role="alert">{error.message}</Text>
          <Button asChild variant="outline">
            <Link to="/">To the shelf</Link>
          </Button>
        </>
      )}
    </Flex>
  );
}
