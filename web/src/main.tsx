import { QueryClientProvider } from "@tanstack/react-query";
import { setNonce } from "get-nonce";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { RouterProvider } from "react-router";
import { ApiError } from "./api/client";
import { Queries } from "./api/queries";
import { onTroubleOver } from "./api/trouble";
import { router } from "./app/routes";
import { fetchAhead } from "./app/screens";
import { SessionGate } from "./app/SessionGate";
import "./index.css";

const client = new Queries({
  defaultOptions: {
    queries: {
      staleTime: 15_000,
      // What the server refused will be refused again; only a lost connection is worth another try.
      retry: (count, error) => count < 2 && !(error instanceof ApiError && error.status < 500),
    },
  },
});

// What failed meanwhile is asked again.
onTroubleOver(
  () => void client.refetchQueries({ predicate: (query) => query.state.status === "error" }),
);

setNonce(document.querySelector<HTMLMetaElement>("meta[name=style-nonce]")?.content ?? "");

// Signing in at the self-service page leads to no screen.
if (!location.pathname.startsWith("/you")) addEventListener("load", fetchAhead, { once: true });

const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={client}>
        <RouterProvider router={router} />
        <SessionGate />
      </QueryClientProvider>
    </StrictMode>,
  );
}
