/** Starts the application. */
import "@mantine/core/styles.layer.css";
import "@mantine/notifications/styles.layer.css";
import "@mantine/spotlight/styles.layer.css";
import "@fontsource-variable/atkinson-hyperlegible-next/wght.css";
import "@fontsource-variable/atkinson-hyperlegible-mono/wght.css";
import "./shared/tokens.css";
import "./shared/base.css";
import { registerSW } from "virtual:pwa-register";
import { MantineProvider } from "@mantine/core";
import { Notifications } from "@mantine/notifications";
import { notifyManager, QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { RouterProvider } from "@tanstack/react-router";
import { createRoot } from "react-dom/client";
import { ApiError, whenAway } from "./api/client";
import { makeRouter } from "./router";
import { resolver, theme } from "./shared/theme";
import { fromPantry } from "./treatment/pantry";
import { startSending } from "./treatment/sender";
import { followSession } from "./treatment/session";

// What a stream or an answer says is shown at once: a timer would wait a second in a window that is not in front.
notifyManager.setScheduler(queueMicrotask);
const queries = new QueryClient({
  defaultOptions: {
    queries: {
      retry: (count, error) => count < 2 && error instanceof ApiError && error.away,
      staleTime: 5_000,
      networkMode: "always", // what is not answered is told, or taken from what this device keeps
    },
    mutations: { networkMode: "always" },
  },
});
const router = makeRouter(queries);

registerSW({ immediate: true });
startSending();
followSession();
whenAway(fromPantry);

const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <MantineProvider theme={theme} cssVariablesResolver={resolver} defaultColorScheme="light">
      <Notifications position="bottom-right" autoClose={6000} />
      <QueryClientProvider client={queries}>
        <RouterProvider router={router} />
      </QueryClientProvider>
    </MantineProvider>,
  );
}
