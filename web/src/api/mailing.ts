// What people under the policies are written: chosen, seen beforehand, and what became of it.
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, server, type Schemas } from "./client";

export type Mailing = Schemas["MailingInfo"]["mailing"];
export type MailingInfo = Schemas["MailingInfo"];
export type Kind = Mailing["kinds"][number];
/** A letter to be seen: its text, and where it is as a mail program shows it. */
export type Letter = Schemas["LetterShown"] & { page: string };
export type LetterInfo = Schemas["LetterInfo"];

const MAILING = "/api/domains/{domain}/mailing";
const at = (domain: string) => ({ params: { path: { domain } } });
const keyOf = (domain: string) => ["mailing", domain];

/** How soon something new is seen that a worker does. */
const RENEWED = 5_000;

export const useMailing = (domain: string) =>
  useQuery({
    queryKey: keyOf(domain),
    queryFn: ({ signal }) => answer(server.GET(MAILING, { ...at(domain), signal })),
    refetchInterval: RENEWED,
  });

/** Who would be written to just now, if this were chosen; anew after each look. */
export const usePlanned = (domain: string, mailing: Mailing, lookedAt: string | null) =>
  useQuery({
    queryKey: [...keyOf(domain), "planned", mailing, lookedAt],
    queryFn: ({ signal }) =>
      answer(server.POST(`${MAILING}/planned`, { ...at(domain), body: { mailing }, signal })),
    placeholderData: keepPreviousData,
  });

const pageAt = (domain: string, rest: string) =>
  `/api/domains/${encodeURIComponent(domain)}/mailing/${rest}`;

function samplePage(domain: string, { account, kind, language, mailing }: Schemas["SampleAsked"]) {
  const asked = new URLSearchParams({ account, kind, language: language ?? "" });
  asked.set("zone", mailing.zone ?? "UTC");
  asked.set("page", mailing.page ?? "");
  for (const day of mailing.days ?? []) asked.append("days", String(day));
  return pageAt(domain, `sample?${asked}`);
}

/** What one account would be written about something; nothing without an account. */
export const useSample = (domain: string, body: Schemas["SampleAsked"]) =>
  useQuery({
    queryKey: [...keyOf(domain), "sample", body],
    queryFn: async ({ signal }): Promise<Letter> => ({
      ...(await answer(server.POST(`${MAILING}/sample`, { ...at(domain), body, signal }))),
      page: samplePage(domain, body),
    }),
    enabled: body.account !== "",
    placeholderData: keepPreviousData,
  });

export const useLetters = (domain: string, account: string) =>
  useQuery({
    queryKey: [...keyOf(domain), "letters", account],
    queryFn: ({ signal }) =>
      answer(
        server.GET(`${MAILING}/letters`, {
          params: { path: { domain }, query: { account } },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
    refetchInterval: RENEWED,
  });

/** What the stand-in for a mail server has kept. */
export const useMailbox = (domain: string) =>
  useQuery({
    queryKey: [...keyOf(domain), "mailbox"],
    queryFn: ({ signal }) =>
      answer(server.GET(`${MAILING}/mailbox`, { ...at(domain), signal })).then((kept) =>
        kept.map((one) => ({ ...one, page: pageAt(domain, `mailbox/${one.name}`) })),
      ),
    refetchInterval: RENEWED,
  });

function useMailingWrite<A, R>(domain: string, write: (argument: A) => Promise<R>) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: write,
    onSettled: () => client.invalidateQueries({ queryKey: keyOf(domain) }),
  });
}

export const useChooseMailing = (domain: string) =>
  useMailingWrite(domain, (body: Schemas["MailingEdit"]) =>
    answer(server.PUT(MAILING, { ...at(domain), body })),
  );

export const useTestLetter = (domain: string) =>
  useMailingWrite(domain, (body: Schemas["TestAsked"]) =>
    answer(server.POST(`${MAILING}/test`, { ...at(domain), body })),
  );

export const useWriteNow = (domain: string) =>
  useMailingWrite(domain, () => answer(server.POST(`${MAILING}/now`, at(domain))));

export const useLetterAgain = (domain: string) =>
  useMailingWrite(domain, (letter: string) =>
    answer(
      server.POST(`${MAILING}/letters/{letter}/again`, { params: { path: { domain, letter } } }),
    ),
  );
