import { QueryClientProvider } from "@tanstack/react-query";
import { Tooltip } from "radix-ui";
import { StrictMode, Suspense } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter, Route, Routes } from "react-router";
import { Problem } from "./api/client";
import { queries } from "./api/queries";
import { Bench } from "./bench/Bench";
import { MarkPatterns } from "./folds/marks/kinds";
import "./index.css";
import { Door } from "./people/Door";
import { Ringing } from "./off/Ringing";
import { PatternDefs } from "./patterns/Patterns";
import { WorthWeaves } from "./patterns/WorthBar";
import { Away } from "./shell/Away";
import { Header } from "./shell/Header";
import { later } from "./shell/later";
import { GlobalKeys, Keys, Palette } from "./shell/Overlays";
import { Boundary, Trouble } from "./shell/Trouble";
import { Toasts } from "./ui/Toasts";

const AblePage = later(() => import("./able/AblePage").then((m) => m.AblePage));
const ComparePage = later(() => import("./line/ComparePage").then((m) => m.ComparePage));
const LinePage = later(() => import("./line/LinePage").then((m) => m.LinePage));
const WordsPage = later(() => import("./words/WordsPage").then((m) => m.WordsPage));
const PriorsPage = later(() => import("./priors/PriorsPage").then((m) => m.PriorsPage));
const CutPage = later(() => import("./cut/CutPage").then((m) => m.CutPage));
const CraftPage = later(() => import("./craft/CraftPage").then((m) => m.CraftPage));
const DrillsPage = later(() => import("./drills/DrillsPage").then((m) => m.DrillsPage));
const FigurePage = later(() => import("./folds/FigurePage").then((m) => m.FigurePage));
const KitPage = later(() => import("./kit/KitPage").then((m) => m.KitPage));
const LogPage = later(() => import("./bench/LogPage").then((m) => m.LogPage));
const NightPage = later(() => import("./night/NightPage").then((m) => m.NightPage));
const NightsPage = later(() => import("./night/NightsPage").then((m) => m.NightsPage));
const OffPage = later(() => import("./off/OffPage").then((m) => m.OffPage));
const PeoplePage = later(() => import("./people/PeoplePage").then((m) => m.PeoplePage));
const PlatePage = later(() => import("./plates/PlatePage").then((m) => m.PlatePage));
const PlatesList = later(() => import("./plates/PlatesList").then((m) => m.PlatesList));
const RunPage = later(() => import("./run/RunPage").then((m) => m.RunPage));
const BesidePage = later(() => import("./run/BesidePage").then((m) => m.BesidePage));
const SeriesList = later(() => import("./series/SeriesList").then((m) => m.SeriesList));
const SeriesPage = later(() => import("./series/SeriesPage").then((m) => m.SeriesPage));
const SettingsPage = later(() => import("./settings/SettingsPage").then((m) => m.SettingsPage));
const ShelfPage = later(() => import("./shelf/ShelfPage").then((m) => m.ShelfPage));

const StockPage = later(() => import("./stock/StockPage").then((m) => m.StockPage));
const WeekPage = later(() => import("./week/WeekPage").then((m) => m.WeekPage));

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
              <Door>
                <Ringing />
                <Suspense fallback={<p className="p-10 text-faded">Unfolding the page</p>}>
                  <Routes>
                    <Route path="/" element={<Bench />} />
                    <Route path="/log" element={<LogPage />} />
                    <Route path="/off/:plan" element={<OffPage />} />
                    <Route path="/run/:run" element={<RunPage />} />
                    <Route path="/runs" element={<BesidePage />} />
                    <Route path="/plates" element={<PlatesList />} />
                    <Route path="/plate/:plate" element={<PlatePage />} />
                    <Route path="/nights" element={<NightsPage />} />
                    <Route path="/night/:night" element={<NightPage />} />
                    <Route path="/people" element={<PeoplePage />} />
                    <Route path="/series" element={<SeriesList />} />
                    <Route path="/series/:series" element={<SeriesPage />} />
                    <Route path="/able/:printer" element={<AblePage />} />
                    <Route path="/plan/:plan/:fold?" element={<FigurePage />} />
                    <Route path="/kit/:kit" element={<KitPage />} />
                    <Route path="/cut/:plan" element={<CutPage />} />
                    <Route path="/line/:plan" element={<LinePage />} />
                    <Route path="/compare" element={<ComparePage />} />
                    <Route path="/craft" element={<CraftPage />} />
                    <Route path="/words" element={<WordsPage />} />
                    <Route path="/priors" element={<PriorsPage />} />
                    <Route path="/drills" element={<DrillsPage />} />
                    <Route path="/week" element={<WeekPage />} />
                    <Route path="/shelf" element={<ShelfPage />} />
                    <Route path="/stock" element={<StockPage />} />
                    <Route path="/settings" element={<SettingsPage />} />
                    <Route path="*" element={<Trouble problem={NO_PAGE} />} />
                  </Routes>
                </Suspense>
              </Door>
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
