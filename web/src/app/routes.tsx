import { createBrowserRouter } from "react-router";
import { AccountsScreen } from "../accounts/AccountsScreen";
import { SourcesScreen } from "../sources/SourcesScreen";
import { StrataScreen } from "../strata/StrataScreen";
import { Home } from "./Home";
import { NotFound } from "./NotFound";
import { Shell } from "./Shell";

export const router = createBrowserRouter([
  { path: "/", element: <Home /> },
  {
    path: "/:domain",
    element: <Shell />,
    children: [
      { path: "strata", element: <StrataScreen /> },
      { path: "accounts", element: <AccountsScreen /> },
      { path: "sources", element: <SourcesScreen /> },
    ],
  },
  { path: "*", element: <NotFound /> },
]);
