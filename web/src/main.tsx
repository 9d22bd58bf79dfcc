import "./early";
import { Box, Button, ChakraProvider, Flex, Text } from "@chakra-ui/react";
import { QueryClientProvider } from "@tanstack/react-query";
import { lazy, StrictMode, Suspense } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, Navigate, Outlet, RouterProvider } from "react-router";
import { queries } from "./early";
import "@fontsource/atkinson-hyperlegible/400.css";
import "@fontsource/atkinson-hyperlegible/700.css";
import "@fontsource/source-serif-4/400.css";
import "@fontsource/source-serif-4/700.css";
import { useEvents } from "./api/events";
import { Opened } from "./episode/Opened";
import { RecordingBar } from "./stages/record/RecordingBar";
import { system } from "./theme/system";
import { Messages } from "./theme/toaster";
import { useMends } from "./view/places";

const JoinPage = lazy(() => import("./join/JoinPage").then((m) => ({ default: m.JoinPage })));
const CopyPage = lazy(() => import("./shelf/CopyPage").then((m) => ({ default: m.CopyPage })));
const BatchPage = lazy(() => import("./batch/BatchPage").then((m) => ({ default: m.BatchPage })));
const Shelf = lazy(() => import("./shelf/Shelf").then((m) => ({ default: m.Shelf })));

function Root() {
  useEvents();
  useMends();
  return (
    <Flex direction="column" h="100%">
      <RecordingBar />
      <Box flex="1" minH="0">
        <Outlet />
      </Box>
      <Messages />
    </Flex>
  );
}

/** In place of a screen that broke: a fault of ours, which has lost nothing. */
const Broken = () => (
  <Flex h="100%" direction="column" align="center" justify="center" gap="3" role="alert">
    <Text>Something went wrong on this screen. Nothing of your work is lost.</Text>
    <Button colorPalette="pine" onClick={() => location.reload()}>
      Load it again
    </Button>
  </Flex>
);

const router = createBrowserRouter([
  {
    path: "/join/:token",
    errorElement: <Broken />,
    element: (
      <>
        <JoinPage />
        <Messages />
      </>
    ),
  },
  {
    element: <Root />,
    errorElement: <Broken />,
    children: [
      { path: "/", element: <Shelf /> },
      { path: "/shows/:showId/batch", element: <BatchPage /> },
      { path: "/copy/:token", element: <CopyPage /> },
      { path: "/episodes/:episodeId/:stage?", element: <Opened /> },
      { path: "*", element: <Navigate to="/" replace /> },
    ],
  },
]);

const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <ChakraProvider value={system}>
          <Suspense>
            <RouterProvider router={router} />
          </Suspense>
        </ChakraProvider>
      </QueryClientProvider>
    </StrictMode>,
  );
}
