// Each screen is a file of its own, fetched when it is first shown or before, while nothing else is
// to be done.
const shell = () => import("./Shell");
const strata = () => import("../strata/StrataScreen");

export const screens = {
  shell: () => shell().then(({ Shell }) => ({ Component: Shell })),
  strata: () => strata().then(({ StrataScreen }) => ({ Component: StrataScreen })),
  accounts: () =>
    import("../accounts/AccountsScreen").then(({ AccountsScreen }) => ({
      Component: AccountsScreen,
    })),
  changes: () =>
    import("../changes/ChangesScreen").then(({ ChangesScreen }) => ({ Component: ChangesScreen })),
  baselines: () =>
    import("../baselines/BaselinesScreen").then(({ BaselinesScreen }) => ({
      Component: BaselinesScreen,
    })),
  servers: () =>
    import("../servers/ServersScreen").then(({ ServersScreen }) => ({ Component: ServersScreen })),
  exposure: () =>
    import("../exposure/ExposureScreen").then(({ ExposureScreen }) => ({
      Component: ExposureScreen,
    })),
  forecast: () =>
    import("../forecast/ForecastScreen").then(({ ForecastScreen }) => ({
      Component: ForecastScreen,
    })),
  sources: () =>
    import("../sources/SourcesScreen").then(({ SourcesScreen }) => ({ Component: SourcesScreen })),
  own: () => import("../own/OwnScreen").then(({ OwnScreen }) => ({ Component: OwnScreen })),
  people: () =>
    import("../people/PeopleScreen").then(({ PeopleScreen }) => ({ Component: PeopleScreen })),
  trail: () =>
    import("../trail/TrailScreen").then(({ TrailScreen }) => ({ Component: TrailScreen })),
  you: () => import("../you/YouPage").then(({ YouPage }) => ({ Component: YouPage })),
  card: () => import("../card/CardPage").then(({ CardPage }) => ({ Component: CardPage })),
};

/** Fetch the code of the first screen, while somebody signs in; whether it comes is no matter yet. */
export function fetchAhead() {
  void Promise.all([shell(), strata()]).catch(() => undefined);
}
