// Every read and write of the front end, as hooks. Views never fetch by themselves.
import {
  keepPreviousData,
  useMutation,
  useQueries,
  useQuery,
  useQueryClient,
} from "@tanstack/react-query";
import { domainOf, useDraftPlace } from "../draft/place";
import { ApiError, call, send, type Schemas } from "./client";
import { carryKept, keepFor } from "../shared/kept";
import { inTurn, latest, moved } from "./moves";
import { announce } from "./session";

/** A domain, or a domain as a draft would make it: "domain~12". */
const base = (place: string) => `/api/domains/${encodeURIComponent(place)}`;

/** Who is signed in by now, asked past everything that is remembered. */
export const askWhoIsThere = () => call<Schemas["SignedIn"]>("GET", "/api/session");

/** Whoever it is: what they have typed is theirs. */
function known(me: Schemas["SignedIn"]) {
  keepFor(me.name ?? "");
  return me;
}

export const useMe = () =>
  useQuery({
    queryKey: ["me"],
    queryFn: () => askWhoIsThere().then(known),
    staleTime: Infinity,
    retry: false,
  });

export function useSignIn() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: { name: string; password: string }) =>
      call<Schemas["SignedIn"]>("POST", "/api/session", body),
    onSuccess: (me) => {
      client.setQueryData(["me"], known(me));
      announce();
    },
  });
}

export function useSignOut() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: () => call<null>("DELETE", "/api/session"),
    onSuccess: () => {
      client.clear();
      client.setQueryData(["me"], known({ name: null }));
    },
  });
}

export const useDomains = () =>
  useQuery({
    queryKey: ["domains"],
    queryFn: () => call<Schemas["DomainInfo"][]>("GET", "/api/domains"),
  });

export const useCatalogue = () =>
  useQuery({
    queryKey: ["settings"],
    queryFn: () => call<Schemas["SettingInfo"][]>("GET", "/api/settings"),
    staleTime: Infinity,
  });

/** `show` names populations, by key, to be listed even where they are small. */
export const useStrata = (domain: string, show = "", enabled = true) =>
  useQuery({
    queryKey: ["domain", domain, "strata", show],
    queryFn: () =>
      call<Schemas["Strata"]>(
        "GET",
        `${base(domain)}/strata${show && `?${new URLSearchParams({ show })}`}`,
      ),
    placeholderData: keepPreviousData,
    enabled,
  });

export const usePolicy = (domain: string, guid: string | null) =>
  useQuery({
    queryKey: ["domain", domain, "policy", guid],
    queryFn: () => call<Schemas["PolicyDetail"]>("GET", `${base(domain)}/policies/${guid}`),
    enabled: guid !== null,
  });

export const useAccount = (domain: string, name: string | null) =>
  useQuery({
    queryKey: ["domain", domain, "account", name],
    queryFn: () =>
      call<Schemas["AccountCore"]>(
        "GET",
        `${base(domain)}/accounts/${encodeURIComponent(name ?? "")}`,
      ),
    enabled: name !== null,
  });

export const useGroup = (domain: string, name: string | null) =>
  useQuery({
    queryKey: ["domain", domain, "group", name],
    queryFn: () =>
      call<Schemas["GroupInfo"]>("GET", `${base(domain)}/groups/${encodeURIComponent(name ?? "")}`),
    enabled: name !== null,
  });

/**
 * The findings at a place; asked for once the caller is `ready`, where something else has to come
 * first.
 */
export const useFindings = (domain: string, ready = true) =>
  useQuery({
    enabled: ready,
    queryKey: ["domain", domain, "findings"],
    queryFn: () => call<Schemas["Findings"]>("GET", `${base(domain)}/findings`),
    // Null while the server is still looking.
    select: (answer) => answer.findings,
    refetchInterval: (query) => (query.state.data?.findings === null ? 600 : false),
  });

export const useAccept = (domain: string) =>
  useDomainWrite(domain, (body: Schemas["Acceptance"]) =>
    call<null>("POST", `${base(domain)}/findings/accepted`, body),
  );

export const useWithdraw = (domain: string) =>
  useDomainWrite(domain, (key: string) =>
    call<null>("DELETE", `${base(domain)}/findings/accepted?${new URLSearchParams({ key })}`),
  );

export const useMend = (domain: string) =>
  useDraftWrite(domain, (place, mend: Schemas["MendInfo"]) =>
    call<Schemas["PolicyDetail"]>("PATCH", `${base(place)}/policies/${mend.guid}`, mend.edit),
  );

export const PAGE = 200;

/**
 * The pages of accounts that are in view, of those a query asks for; a long table never holds more
 * than it shows.
 */
export function useAccountPages(domain: string, query: string, pages: number[]) {
  return useQueries({
    queries: pages.map((page) => ({
      queryKey: ["domain", domain, "accounts", query, page],
      queryFn: ({ signal }: { signal: AbortSignal }) => {
        const whole = new URLSearchParams(query);
        whole.set("offset", String(page * PAGE));
        whole.set("limit", String(PAGE));
        return call<Schemas["AccountPage"]>(
          "GET",
          `${base(domain)}/accounts?${whole}`,
          undefined,
          signal,
        );
      },
    })),
  });
}

/** The address of the same accounts as a file. */
export const accountsFile = (domain: string, query: string) =>
  `${base(domain)}/accounts.csv${query && `?${query}`}`;

export const useContainers = (domain: string) =>
  useQuery({
    queryKey: ["domain", domain, "containers"],
    queryFn: () => call<Schemas["ContainerInfo"][]>("GET", `${base(domain)}/containers`),
  });

export const useSearch = (domain: string, q: string, kinds: string[] = []) =>
  useQuery({
    queryKey: ["domain", domain, "search", q, kinds],
    queryFn: ({ signal }) => {
      const query = new URLSearchParams({ q });
      for (const kind of kinds) query.append("kind", kind);
      return call<Schemas["Hits"]>("GET", `${base(domain)}/search?${query}`, undefined, signal);
    },
    enabled: q.trim() !== "",
    placeholderData: keepPreviousData,
  });

/** What a change would do; the last answer stays in view while the next one is on its way. */
export const useWhatIf = (domain: string, change: Schemas["WhatIf"] | null) =>
  useQuery({
    queryKey: ["domain", domain, "what-if", change],
    queryFn: ({ signal }) =>
      call<Schemas["WhatIfAnswer"]>("POST", `${base(domain)}/what-if`, change, signal),
    enabled: change !== null,
    placeholderData: change === null ? undefined : keepPreviousData,
  });

/**
 * Edits: they go to the draft that is shown. From live they open one, or go on with the one shown
 * last, and show it.
 */
function useDraftWrite<A, R>(domain: string, write: (place: string, argument: A) => Promise<R>) {
  const client = useQueryClient();
  const { placeForWriting, show } = useDraftPlace(domain);
  return useMutation({
    mutationFn: (argument: A) =>
      inTurn(domainOf(domain), async () => {
        const place = await placeForWriting();
        return { place, result: await write(place, argument) };
      }),
    onSuccess: async ({ place, result }) => {
      const detail = result as Partial<Schemas["PolicyDetail"]> | null;
      if (detail?.guid) client.setQueryData(["domain", place, "policy", detail.guid], detail);
      await client.invalidateQueries({ queryKey: ["domain", place] });
      void client.invalidateQueries({ queryKey: ["drafts"] });
      show(place);
    },
  });
}

/**
 * A write to one policy in a draft, made for the version that was seen or what one's own writes
 * have made of it.
 */
function policyWrite<A extends { version: number }>(
  guid: string,
  write: (place: string, argument: A) => Promise<Schemas["PolicyDetail"]>,
) {
  return async (place: string, argument: A) => {
    // In live and in a draft that does not change it a policy has the same version.
    const version = latest(`${place} ${guid}`, argument.version);
    const detail = await write(place, { ...argument, version });
    moved(`${place} ${guid}`, version, detail.version);
    if (version !== argument.version) moved(`${place} ${guid}`, argument.version, detail.version);
    return detail;
  };
}

/** Writes that change what live resolves to: everything read from it is stale afterwards. */
function useDomainWrite<A, R>(domain: string, write: (argument: A) => Promise<R>) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: write,
    onSuccess: async (result) => {
      const detail = result as Partial<Schemas["PolicyDetail"]> | null;
      if (detail?.guid) client.setQueryData(["domain", domain, "policy", detail.guid], detail);
      await client.invalidateQueries({ queryKey: ["domain", domain] });
      await client.invalidateQueries({ queryKey: ["domains"] });
    },
  });
}

export const useCreatePolicy = (domain: string) =>
  useDraftWrite(domain, (place, body: Schemas["PolicyNew"]) =>
    call<Schemas["PolicyDetail"]>("POST", `${base(place)}/policies`, body),
  );

export const useEditPolicy = (domain: string, guid: string) =>
  useDraftWrite(
    domain,
    policyWrite(guid, (place, body: Schemas["PolicyEdit"]) =>
      call("PATCH", `${base(place)}/policies/${guid}`, body),
    ),
  );

export const useEditBedrock = (domain: string) =>
  useDraftWrite(domain, (place, settings: Schemas["SettingsEdit"]) =>
    call<Schemas["Bedrock"]>("PATCH", `${base(place)}/policies/domain`, { settings }),
  );

export const useEditSource = (domain: string) =>
  useDraftWrite(
    domain,
    (
      place,
      body: {
        gpo: string;
        settings: Record<string, boolean | number | null | undefined>;
        unset: string[];
      },
    ) => call<Schemas["Bedrock"]>("PATCH", `${base(place)}/sources/template`, body),
  );

export const useEditSourceLink = (domain: string) =>
  useDraftWrite(domain, (place, body: Schemas["SourceLinkEdit"]) =>
    call<Schemas["Bedrock"]>("PATCH", `${base(place)}/sources/link`, body),
  );

export const useExtendedSettings = () =>
  useQuery({
    queryKey: ["extended-settings"],
    queryFn: () => call<Schemas["ExtendedInfo"][]>("GET", "/api/extended-settings"),
    staleTime: Infinity,
  });

/** Reads a security template into live. */
export function useTemplateUpload(domain: string) {
  return useDomainWrite(domain, ({ gpo, file }: { gpo: string; file: File }) =>
    send<Schemas["Bedrock"]>(
      "PUT",
      `${base(domain)}/sources/template?${new URLSearchParams({ gpo })}`,
      file,
    ),
  );
}

export const useDeletePolicy = (domain: string, guid: string) =>
  useDraftWrite(domain, (place, version: number) =>
    call<null>(
      "DELETE",
      `${base(place)}/policies/${guid}?version=${latest(`${place} ${guid}`, version)}`,
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
  useLinkWrite(domain, guid, (place, body: { dn: string; version: number }) =>
    call("POST", `${base(place)}/policies/${guid}/links`, body),
  );

export const useUnlink = (domain: string, guid: string) =>
  useLinkWrite(domain, guid, (place, { dn, version }: { dn: string; version: number }) =>
    call(
      "DELETE",
      `${base(place)}/policies/${guid}/links?${new URLSearchParams({ dn, version: String(version) })}`,
    ),
  );

export const useRenumber = (domain: string) =>
  useDraftWrite<null, Schemas["DraftDetail"]>(domain, (place) =>
    call("POST", `${base(place)}/draft/renumber`),
  );

export const useWeighMembership = (domain: string) =>
  useDraftWrite(domain, (place, body: Schemas["WhatIfMembership"]) =>
    call<Schemas["DraftDetail"]>("POST", `${base(place)}/draft/memberships`, body),
  );

export const useWeighFlag = (domain: string) =>
  useDraftWrite(domain, (place, body: Schemas["WhatIfFlag"]) =>
    call<Schemas["DraftDetail"]>("POST", `${base(place)}/draft/flags`, body),
  );

/**
 * What an edit that is not saved comes to; the last answer stays in view while the next one is on
 * its way.
 */
export const useWeighedEdit = (domain: string, edit: Schemas["EditToWeigh"] | null) =>
  useQuery({
    queryKey: ["domain", domain, "weighed", edit],
    queryFn: ({ signal }) =>
      call<Schemas["EditWeighed"]>("POST", `${base(domain)}/what-if/edit`, edit, signal),
    enabled: edit !== null,
    placeholderData: keepPreviousData,
  });

/** A policy ("domain" for the domain policy) or an account as attributes of the directory. */
export const useAttributes = (
  domain: string,
  kind: "policies" | "accounts",
  name: string,
  wanted: boolean,
) =>
  useQuery({
    queryKey: ["domain", domain, "attributes", kind, name],
    queryFn: () =>
      call<Schemas["AttributeInfo"][]>(
        "GET",
        `${base(domain)}/${kind}/${encodeURIComponent(name)}/attributes`,
      ),
    enabled: wanted,
  });

export const useStartingPoints = () =>
  useQuery({
    queryKey: ["starting-points"],
    queryFn: () => call<Schemas["StartingPointInfo"][]>("GET", "/api/starting-points"),
    staleTime: Infinity,
  });

/** What hangs together with a setting just changed; asked for once a change, kept nowhere. */
export const askAdjustments = (settings: Record<string, unknown>, changed: string) =>
  call<Schemas["AdjustmentInfo"][]>("POST", "/api/adjustments", { settings, changed });

export const useEditDomain = (domain: string) =>
  useDomainWrite(domain, (body: Omit<Schemas["DomainEdit"], "version"> & { version: number }) =>
    call<Schemas["DomainInfo"]>("PATCH", base(domain), body),
  );

/** Take a domain out of Hornfels. */
export function useRemoveDomain() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (domain: Schemas["DomainInfo"]) =>
      call<null>("DELETE", `${base(domain.dns_name)}?version=${domain.version}`),
    onSettled: () => client.invalidateQueries(),
  });
}

/** The stored policy, if the error says that somebody else changed it meanwhile. */
export function conflictOf(error: unknown): Schemas["Conflict"] | null {
  if (
    error instanceof ApiError &&
    error.status === 409 &&
    error.body &&
    "current" in (error.body as object)
  ) {
    return error.body as Schemas["Conflict"];
  }
  return null;
}
