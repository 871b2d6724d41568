/** Where a role is held, in words. */
export const whereText = (domain: string) => (domain === "*" ? "everywhere" : `in ${domain}`);
