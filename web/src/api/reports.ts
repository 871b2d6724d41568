// Files for people who look at no screen. They are links: the browser saves what they lead to.
const of = (domain: string) => `/api/domains/${encodeURIComponent(domain)}`;

/** The report of a domain, with the changes from a day on ("" for all), held against baselines. */
export function domainReport(domain: string, since: string, baselines: string[]) {
  const asked = new URLSearchParams(baselines.map((name) => ["baseline", name]));
  if (since) asked.set("since", since);
  const query = asked.toString();
  return `${of(domain)}/report${query && `?${query}`}`;
}

export const changeReport = (domain: string, point: number) =>
  `${of(domain)}/history/${point}/report`;

export const drawing = (domain: string) => `${of(domain)}/strata.svg`;
