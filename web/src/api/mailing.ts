// What people under the policies are written: chosen, seen beforehand, and what became of it.
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, server, type Schemas } from "./client";

export type Mailing = Schemas["MailingInfo"]["mailing"];
export type MailingInfo = Schemas["MailingInfo"];
export type Kind = Mailing["kinds"][number];
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

/** What one account would be written about something; nothing without an account. */
export const useSample = (domain: string, body: Schemas["SampleAsked"]) =>
  useQuery({
    queryKey: [...keyOf(domain), "sample", body],
    queryFn: ({ signal }) =>
      answer(server.POST(`${MAILING}/sample`, { ...at(domain), body, signal })),
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
    queryFn: ({ signal }) => answer(server.GET(`${MAILING}/mailbox`, { ...at(domain), signal })),
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
