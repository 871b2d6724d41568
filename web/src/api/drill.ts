// The drill: stories of bad and good tries.
import { useQuery } from "@tanstack/react-query";
import { answer, server, type Schemas } from "./client";

export const useStories = () =>
  useQuery({
    queryKey: ["stories"],
    queryFn: () => answer(server.GET("/api/stories")),
    staleTime: Infinity,
  });

export const playStory = (place: string, body: Schemas["DrillAsked"], signal: AbortSignal) =>
  answer(
    server.POST("/api/domains/{domain}/drill", {
      params: { path: { domain: place } },
      body,
      signal,
    }),
  );
