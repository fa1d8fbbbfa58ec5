import { QueryClientProvider } from "@tanstack/react-query";
import { createRoot } from "react-dom/client";
import { BrowserRouter, Route, Routes } from "react-router";
import { queries } from "./api/queries";
import { Bench } from "./bench/Bench";
import { LogPage } from "./bench/LogPage";
import { FigurePage, Trouble } from "./folds/FigurePage";
import { Problem } from "./api/client";
import { KitPage } from "./kit/KitPage";
import "./index.css";
import { PatternDefs } from "./patterns/Patterns";
import { MarkPatterns } from "./folds/marks/kinds";
import { SettingsPage } from "./settings/SettingsPage";
import { Away } from "./shell/Away";
import { Header } from "./shell/Header";
import { GlobalKeys, Keys, Palette, Toasts } from "./shell/Overlays";

createRoot(document.getElementById("root")!).render(
  <QueryClientProvider client={queries}>
    <BrowserRouter>
      <PatternDefs />
      <MarkPatterns />
      <div className="flex h-full flex-col">
        <Header />
        <Away />
        <Routes>
          <Route path="/" element={<Bench />} />
          <Route path="/log" element={<LogPage />} />
          <Route path="/plan/:plan/:fold?" element={<FigurePage />} />
          <Route path="/kit/:kit" element={<KitPage />} />
          <Route path="/settings" element={<SettingsPage />} />
          <Route path="*" element={<Trouble problem={new Problem("no-page", "There is no such page.", "The address may be old or mistyped.")} />} />
        </Routes>
      </div>
      <GlobalKeys />
      <Palette />
      <Keys />
      <Toasts />
    </BrowserRouter>
  </QueryClientProvider>,
);
