import { QueryClientProvider } from "@tanstack/react-query";
import { Tooltip } from "radix-ui";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter, Route, Routes } from "react-router";
import { Problem } from "./api/client";
import { queries } from "./api/queries";
import { Bench } from "./bench/Bench";
import { LogPage } from "./bench/LogPage";
import { FigurePage } from "./folds/FigurePage";
import { MarkPatterns } from "./folds/marks/kinds";
import "./index.css";
import { KitPage } from "./kit/KitPage";
import { PatternDefs } from "./patterns/Patterns";
import { WorthWeaves } from "./patterns/WorthBar";
import { SettingsPage } from "./settings/SettingsPage";
import { ShelfPage } from "./shelf/ShelfPage";
import { Away } from "./shell/Away";
import { Header } from "./shell/Header";
import { GlobalKeys, Keys, Palette } from "./shell/Overlays";
import { Boundary, Trouble } from "./shell/Trouble";
import { Toasts } from "./ui/Toasts";

const NO_PAGE = new Problem(
  "no-page",
  "There is no such page.",
  "The address may be old or mistyped.",
);
const root = document.getElementById("root");
if (!root) throw new Error("the page has no place for the application");

createRoot(root).render(
  <StrictMode>
    <QueryClientProvider client={queries}>
      <Tooltip.Provider delayDuration={350}>
        <BrowserRouter>
          <PatternDefs />
          <MarkPatterns />
          <WorthWeaves />
          <div className="flex h-full flex-col">
            <Header />
            <Away />
            <Boundary>
              <Routes>
                <Route path="/" element={<Bench />} />
                <Route path="/log" element={<LogPage />} />
                <Route path="/plan/:plan/:fold?" element={<FigurePage />} />
                <Route path="/kit/:kit" element={<KitPage />} />
                <Route path="/shelf" element={<ShelfPage />} />
                <Route path="/settings" element={<SettingsPage />} />
                <Route path="*" element={<Trouble problem={NO_PAGE} />} />
              </Routes>
            </Boundary>
          </div>
          <GlobalKeys />
          <Palette />
          <Keys />
          <Toasts />
        </BrowserRouter>
      </Tooltip.Provider>
    </QueryClientProvider>
  </StrictMode>,
);
