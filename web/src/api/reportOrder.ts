// A domain's report that comes by mail by itself.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, server, type Schemas } from "./client";

export type ReportOrderInfo = Schemas["ReportOrderInfo"];
export type ReportOrder = ReportOrderInfo["order"];

const ORDER = "/api/domains/{domain}/report-order";
const at = (domain: string) => ({ params: { path: { domain } } });
const keyOf = (domain: string) => ["report order", domain];

/** How soon something new is seen that a worker does. */
const RENEWED = 5_000;

export const useReportOrder = (domain: string) =>
  useQuery({
    queryKey: keyOf(domain),
    queryFn: ({ signal }) => answer(server.GET(ORDER, { ...at(domain), signal })),
    refetchInterval: RENEWED,
  });

function useOrderWrite<A, R>(domain: string, write: (argument: A) => Promise<R>) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: write,
    onSettled: () => client.invalidateQueries({ queryKey: keyOf(domain) }),
  });
}

export const useOrderReport = (domain: string) =>
  useOrderWrite(domain, (body: Schemas["ReportOrderEdit"]) =>
    answer(server.PUT(ORDER, { ...at(domain), body })),
  );

export const useReportNow = (domain: string) =>
  useOrderWrite(domain, () => answer(server.POST(`${ORDER}/now`, at(domain))));
