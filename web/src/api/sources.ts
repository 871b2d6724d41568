// Where the domain policy comes from, and its own values.
import { answer, asItIs, server, type Schemas } from "./client";
import { policyWrite, useDomainWrite, useDraftWrite } from "./writing";

/** Edits the domain policy, by the state of it that was seen. */
export const bedrockEdit = policyWrite("domain", (place, body: Schemas["BedrockEdit"]) =>
  answer(
    server.PATCH("/api/domains/{domain}/policies/domain", {
      params: { path: { domain: place } },
      body,
    }),
  ),
);

export const useEditBedrock = (domain: string) => useDraftWrite(domain, bedrockEdit);

export const useEditSource = (domain: string) =>
  useDraftWrite(domain, (place, body: Schemas["SourceEdit"]) =>
    answer(
      server.PATCH("/api/domains/{domain}/sources/template", {
        params: { path: { domain: place } },
        body,
      }),
    ),
  );

export const useEditSourceLink = (domain: string) =>
  useDraftWrite(domain, (place, body: Schemas["SourceLinkEdit"]) =>
    answer(
      server.PATCH("/api/domains/{domain}/sources/link", {
        params: { path: { domain: place } },
        body,
      }),
    ),
  );

/** Reads a security template into live. */
export const useTemplateUpload = (domain: string) =>
  useDomainWrite(domain, ({ gpo, file }: { gpo: string; file: File }) =>
    answer(
      server.PUT("/api/domains/{domain}/sources/template", {
        params: { path: { domain }, query: { gpo } },
        ...asItIs(file),
      }),
    ),
  );
