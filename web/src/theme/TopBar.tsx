/** The bar at the top of a page. */
import { Flex, type FlexProps } from "@chakra-ui/react";

export function TopBar(props: FlexProps) {
  return (
    <Flex
      as="header"
      h="52px"
      flexShrink="0"
      align="center"
      px="5"
      borderBottomWidth="1px"
      borderColor="rule"
      {...props}
    />
  );
}
