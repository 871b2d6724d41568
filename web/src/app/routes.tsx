import { createBrowserRouter } from "react-router";
import { Loading } from "../kit/Loading";
import { Home } from "./Home";
import { NotFound } from "./NotFound";
import { OutOfDate } from "./OutOfDate";
import { ReturnPage } from "./ReturnPage";
import { WholePage } from "./WholePage";
import { RETURN } from "../api/elsewhere";
import { screens } from "./screens";

const errorElement = <OutOfDate />;
const hydrateFallbackElement = (
  <WholePage>
    <Loading what="Hornfels" />
  </WholePage>
);

export const router = createBrowserRouter([
  { path: RETURN, element: <ReturnPage />, errorElement },
  { path: "/", element: <Home />, errorElement, hydrateFallbackElement },
  { path: "/you", lazy: screens.you, errorElement, hydrateFallbackElement },
  {
    path: "/:domain",
    lazy: screens.shell,
    errorElement,
    hydrateFallbackElement,
    children: [
      { path: "strata", lazy: screens.strata },
      { path: "accounts", lazy: screens.accounts },
      { path: "changes", lazy: screens.changes },
      { path: "baselines", lazy: screens.baselines },
      { path: "servers", lazy: screens.servers },
      { path: "exposure", lazy: screens.exposure },
      { path: "forecast", lazy: screens.forecast },
      { path: "sources", lazy: screens.sources },
      { path: "own", lazy: screens.own },
      { path: "people", lazy: screens.people },
      { path: "trail", lazy: screens.trail },
    ],
  },
  { path: "/:domain/card", lazy: screens.card, errorElement, hydrateFallbackElement },
  { path: "*", element: <NotFound /> },
]);
