import "./early";
import { ChakraProvider } from "@chakra-ui/react";
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
import { EpisodeFrame } from "./episode/EpisodeFrame";
import { system } from "./theme/system";
import { Messages } from "./theme/toaster";

const JoinPage = lazy(() => import("./join/JoinPage").then((m) => ({ default: m.JoinPage })));
const CopyPage = lazy(() => import("./shelf/CopyPage").then((m) => ({ default: m.CopyPage })));
const Shelf = lazy(() => import("./shelf/Shelf").then((m) => ({ default: m.Shelf })));

function Root() {
  useEvents();
  return (
    <>
      <Outlet />
      <Messages />
    </>
  );
}

const router = createBrowserRouter([
  {
    path: "/join/:token",
    element: (
      <>
        <JoinPage />
        <Messages />
      </>
    ),
  },
  {
    element: <Root />,
    children: [
      { path: "/", element: <Shelf /> },
      { path: "/copy/:token", element: <CopyPage /> },
      { path: "/episodes/:episodeId/:stage?", element: <EpisodeFrame /> },
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
