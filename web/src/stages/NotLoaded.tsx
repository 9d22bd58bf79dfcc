/** In place of a stage that could not be fetched: the server was away just then. */
import { Button, Flex, Text } from "@chakra-ui/react";

export const NotLoaded = () => (
  <Flex flex="1" direction="column" align="center" justify="center" gap="3" role="alert">
    <Text>This part of Air Trim did not come through. Nothing of your work is lost.</Text>
    <Button size="sm" colorPalette="pine" onClick={() => location.reload()}>
      Load it again
    </Button>
  </Flex>
);
