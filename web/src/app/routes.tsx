import { createBrowserRouter } from "react-router";
import { AccountsScreen } from "../accounts/AccountsScreen";
import { CardPage } from "../card/CardPage";
import { ChangesScreen } from "../changes/ChangesScreen";
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
      { path: "changes", element: <ChangesScreen /> },
      { path: "sources", element: <SourcesScreen /> },
    ],
  },
  { path: "/:domain/card", element: <CardPage /> },
  { path: "*", element: <NotFound /> },
]);
