// Policies: read, weighed, edited, linked; the settings they are made of.
import { keepPreviousData, useMutation, useQuery } from "@tanstack/react-query";
import { carryKept } from "../shared/kept";
import { answer, server, type Schemas } from "./client";
import { latest } from "./moves";
import { policyWrite, useDraftWrite } from "./writing";

type Setting = Schemas["SettingInfo"];
export type Settings = Schemas["SettingsInfo"];
export type SettingKey = keyof Settings;
/** A setting that every policy has. */
export type PolicySetting = Setting & { key: SettingKey };

const catalogue = {
  queryKey: ["settings"],
  queryFn: () => answer(server.GET("/api/settings")),
  staleTime: Infinity,
};
const everywhere = (settings: Setting[]) =>
  settings.filter((setting): setting is PolicySetting => setting.everywhere);

export const useCatalogue = () => useQuery({ ...catalogue, select: everywhere });

/** The settings that a template can hold: those of every policy, and the domain policy's own. */
export const useTemplateCatalogue = () => useQuery(catalogue);

export const useStartingPoints = () =>
  useQuery({
    queryKey: ["starting-points"],
    queryFn: () => answer(server.GET("/api/starting-points")),
    staleTime: Infinity,
  });

/** What hangs together with a setting just changed; asked for once a change, kept nowhere. */
export const useAdjustments = () =>
  useMutation({
    mutationFn: (body: Schemas["AdjustmentsAsked"]) =>
      answer(server.POST("/api/adjustments", { body })),
  });

export const usePolicy = (domain: string, guid: string | null) =>
  useQuery({
    queryKey: ["domain", domain, "policy", guid],
    queryFn: () =>
      answer(
        server.GET("/api/domains/{domain}/policies/{guid}", {
          params: { path: { domain, guid: guid ?? "" } },
        }),
      ),
    enabled: guid !== null,
  });

/** What a change would do; the last answer stays in view while the next one is on its way. */
export const useWhatIf = (domain: string, change: Schemas["WhatIf"] | null) =>
  useQuery({
    queryKey: ["domain", domain, "what-if", change],
    queryFn: ({ signal }) =>
      answer(
        server.POST("/api/domains/{domain}/what-if", {
          params: { path: { domain } },
          body: change as Schemas["WhatIf"],
          signal,
        }),
      ),
    enabled: change !== null,
    placeholderData: change === null ? undefined : keepPreviousData,
  });

/**
 * What an edit that is not saved comes to; the last answer stays in view while the next one is on
 * its way.
 */
export const useWeighedEdit = (domain: string, edit: Schemas["EditToWeigh"] | null) =>
  useQuery({
    queryKey: ["domain", domain, "weighed", edit],
    queryFn: ({ signal }) =>
      answer(
        server.POST("/api/domains/{domain}/what-if/edit", {
          params: { path: { domain } },
          body: edit as Schemas["EditToWeigh"],
          signal,
        }),
      ),
    enabled: edit !== null,
    placeholderData: keepPreviousData,
  });

export const useCreatePolicy = (domain: string) =>
  useDraftWrite(domain, (place, body: Schemas["PolicyNew"]) =>
    answer(
      server.POST("/api/domains/{domain}/policies", { params: { path: { domain: place } }, body }),
    ),
  );

const editPolicy = (place: string, guid: string, body: Schemas["PolicyEdit"]) =>
  answer(
    server.PATCH("/api/domains/{domain}/policies/{guid}", {
      params: { path: { domain: place, guid } },
      body,
    }),
  );

/** Edits a policy, by the state of it that was seen. */
export const policyEdit = (guid: string) =>
  policyWrite(guid, (place, body: Schemas["PolicyEdit"]) => editPolicy(place, guid, body));

export const useEditPolicy = (domain: string, guid: string) =>
  useDraftWrite(domain, policyEdit(guid));

export const useMend = (domain: string) =>
  useDraftWrite(domain, (place, mend: Schemas["MendInfo"]) =>
    editPolicy(place, mend.guid, mend.edit),
  );

export const useDeletePolicy = (domain: string, guid: string) =>
  useDraftWrite(domain, (place, version: number) =>
    answer(
      server.DELETE("/api/domains/{domain}/policies/{guid}", {
        params: {
          path: { domain: place, guid },
          query: { version: latest(`${place} ${guid}`, version) },
        },
      }),
    ),
  );

/**
 * A write to the links of a policy; what is typed in its settings meanwhile goes along to where the
 * write goes.
 */
function useLinkWrite<A extends { version: number }>(
  domain: string,
  guid: string,
  write: (place: string, argument: A) => Promise<Schemas["PolicyDetail"]>,
) {
  const versioned = policyWrite(guid, write);
  return useDraftWrite(domain, async (place, argument: A) => {
    const detail = await versioned(place, argument);
    carryKept(`policy ${guid}`, domain, place);
    return detail;
  });
}

export const useLink = (domain: string, guid: string) =>
  useLinkWrite(domain, guid, (place, body: Schemas["LinkNew"]) =>
    answer(
      server.POST("/api/domains/{domain}/policies/{guid}/links", {
        params: { path: { domain: place, guid } },
        body,
      }),
    ),
  );

export const useUnlink = (domain: string, guid: string) =>
  useLinkWrite(domain, guid, (place, query: Schemas["LinkNew"]) =>
    answer(
      server.DELETE("/api/domains/{domain}/policies/{guid}/links", {
        params: { path: { domain: place, guid }, query },
      }),
    ),
  );

/** A policy ("domain" for the domain policy) or an account as attributes of the directory. */
export const useAttributes = (
  domain: string,
  kind: "policies" | "accounts",
  name: string,
  wanted: boolean,
) =>
  useQuery({
    queryKey: ["domain", domain, "attributes", kind, name],
    queryFn: () => {
      if (kind === "accounts")
        return answer(
          server.GET("/api/domains/{domain}/accounts/{name}/attributes", {
            params: { path: { domain, name } },
          }),
        );
      return answer(
        name === "domain"
          ? server.GET("/api/domains/{domain}/policies/domain/attributes", {
              params: { path: { domain } },
            })
          : server.GET("/api/domains/{domain}/policies/{guid}/attributes", {
              params: { path: { domain, guid: name } },
            }),
      );
    },
    enabled: wanted,
  });
