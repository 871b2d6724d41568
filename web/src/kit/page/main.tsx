// The page of the kit, served in development only: every part in every state.
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { MemoryRouter } from "react-router";
import "../../index.css";
import { KitPage } from "./KitPage";

const root = document.getElementById("root");
if (root)
  createRoot(root).render(
    <StrictMode>
      <MemoryRouter>
        <KitPage />
      </MemoryRouter>
    </StrictMode>,
  );
