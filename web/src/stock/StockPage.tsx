import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link } from "react-router";
import { api, need, problemOf, type Schemas } from "../api/client";
import { useDeed } from "../api/memory";
import { useMaterials } from "../api/queries";
import { day } from "../shell/format";
import { Crumbs } from "../shell/Header";
import { Trouble } from "../shell/Trouble";
import { Pick } from "../ui/Pick";
import { amountOf, didWords, lastsLine } from "./words";

type Stock = Schemas["StockRow"];
type Lot = Schemas["LotRow"];
type Did = Schemas["StepRow"]["did"];

/** What is on the shelf by lot: what is left, what runs out when, and before which plate. */
export function StockPage() {
  const stock = useQuery({ queryKey: ["stock"], queryFn: () => need(api.GET("/api/stock")) });
  useEffect(() => {
    document.title = "Stock · Tenugui";
  }, []);
  if (stock.error) return <Trouble problem={problemOf(stock.error)} />;
  return (
    <main className="min-h-0 flex-1 overflow-y-auto px-8 py-5 max-[1100px]:px-5">
      <Crumbs trail={[{ text: "Shelf", to: "/shelf" }, { text: "stock" }]} />
      <h1 className="text-[27px] leading-tight">Is there enough of everything?</h1>
      <p className="mb-4 max-w-[90ch] text-faded">
        Runs take what was weighed, else what was planned, out of the bottle or spool that they
        name, else out of the oldest. A count by hand corrects all that was reckoned before it.
      </p>
      <div className="flex flex-wrap items-start gap-x-10 gap-y-6">
        <div className="min-w-[480px] flex-[3] space-y-5">
          {stock.data?.length === 0 && (
            <p className="text-faded">Nothing is kept by lot yet. Open one beside.</p>
          )}
          {stock.data?.map((row) => (
            <Kept key={`${row.kind} ${row.material_id}`} row={row} />
          ))}
        </div>
        <Open />
      </div>
    </main>
  );
}

function Kept({ row }: { row: Stock }) {
  return (
    <section aria-label={row.name}>
      <h2 className="flex flex-wrap items-baseline gap-3 text-[18px]">
        {row.name}
        <span className="text-[15px]">{amountOf(row.left, row.unit)} left</span>
      </h2>
      <p className={row.before ? "text-persimmon" : "text-faded"}>{lastsLine(row)}</p>
      <ul>
        {row.lots.map((lot) => (
          <LotLine key={lot.id} lot={lot} unit={row.unit} />
        ))}
      </ul>
    </section>
  );
}

const DEEDS: { value: Did; text: string }[] = [
  { value: "counted", text: "counted" },
  { value: "used", text: "used" },
  { value: "wasted", text: "wasted" },
];

function LotLine({ lot, unit }: { lot: Lot; unit: string }) {
  const [did, setDid] = useState<Did>("counted");
  const [typed, setTyped] = useState("");
  const [sure, setSure] = useState(false);
  const path = { number: lot.id };
  const step = useDeed("stock", (amount: number) =>
    need(
      api.POST("/api/stock/{number}/steps", {
        params: { path },
        body: { did, amount, note: "" },
      }),
    ),
  );
  const unstep = useDeed("stock", (entry: number) =>
    need(api.DELETE("/api/stock/{number}/steps/{entry}", { params: { path: { ...path, entry } } })),
  );
  const drop = useDeed("stock", () =>
    need(api.DELETE("/api/stock/{number}", { params: { path } })),
  );
  const amount = Number(typed.replace(",", "."));
  const sound = typed.trim() !== "" && Number.isFinite(amount) && amount >= 0;
  const last = lot.steps.at(-1);
  return (
    <li className="border-b border-thread py-2">
      <form
        className="flex flex-wrap items-baseline gap-x-3 gap-y-1"
        onSubmit={(e) => {
          e.preventDefault();
          if (sound) step.mutate(amount, { onSuccess: () => setTyped("") });
        }}
      >
        <span className="w-32 font-display text-[16px]">{lot.name}</span>
        <span className="w-16">{amountOf(lot.left, unit)}</span>
        <span className="min-w-36 flex-1 text-[13px] text-faded">
          of {amountOf(lot.amount, unit)}, since {day(lot.opened_at)}
          {lot.wasted > 0 && `, ${amountOf(lot.wasted, unit)} wasted`}
          {lot.short > 0 && (
            <span className="text-persimmon">
              , {amountOf(lot.short, unit)} more was taken than it held: count it
            </span>
          )}
        </span>
        <Pick
          label={`What was done with ${lot.name}`}
          value={did}
          options={DEEDS}
          onValue={(to) => setDid(to as Did)}
        />
        <input
          className="field w-20"
          inputMode="decimal"
          aria-label={`How much of ${lot.name} was ${did}, ${unit}`}
          value={typed}
          onChange={(e) => setTyped(e.target.value)}
        />
        <button className="quiet" disabled={!sound || step.isPending}>
          note it
        </button>
        <button
          type="button"
          className="quiet"
          onClick={() => (sure ? drop.mutate(undefined) : setSure(true))}
        >
          {sure ? "for good?" : "take it off"}
        </button>
      </form>
      {last && (
        <p className="text-[13px] text-faded">
          {didWords(last, unit)}{" "}
          <button type="button" className="underline" onClick={() => unstep.mutate(last.id)}>
            take that back
          </button>
        </p>
      )}
    </li>
  );
}

const KINDS: { value: Schemas["LotAsk"]["kind"]; text: string; unit: string }[] = [
  { value: "material", text: "a bottle or spool", unit: "g" },
  { value: "fluid", text: "washing fluid", unit: "ml" },
  { value: "filters", text: "filters", unit: "pieces" },
  { value: "gloves", text: "gloves", unit: "pairs" },
  { value: "film", text: "spare film", unit: "pieces" },
];

function Open() {
  const materials = useMaterials().data ?? [];
  const [kind, setKind] = useState(KINDS[0].value);
  const [material, setMaterial] = useState<number | null>(null);
  const [name, setName] = useState("");
  const [typed, setTyped] = useState("");
  const of = material ?? materials.at(0)?.id ?? null;
  const unit = KINDS.find((k) => k.value === kind)?.unit ?? "";
  const open = useDeed(
    "stock",
    () =>
      need(
        api.POST("/api/stock", {
          body: {
            kind,
            material_id: kind === "material" ? of : null,
            name,
            amount: Number(typed.replace(",", ".")),
          },
        }),
      ),
    "It is on the shelf.",
  );
  const sound = name.trim() !== "" && Number(typed.replace(",", ".")) > 0;
  return (
    <form
      aria-label="Open a lot"
      className="min-w-72 flex-1 space-y-2"
      onSubmit={(e) => {
        e.preventDefault();
        if (sound)
          open.mutate(undefined, {
            onSuccess: () => {
              setName("");
              setTyped("");
            },
          });
      }}
    >
      <h2 className="text-[18px]">Open one</h2>
      <Pick
        label="What it is"
        value={kind}
        options={KINDS}
        onValue={(to) => setKind(to as typeof kind)}
      />
      {kind === "material" && of != null && (
        <Pick
          label="Of which material"
          value={String(of)}
          options={materials.map((m) => ({ value: String(m.id), text: m.name }))}
          onValue={(to) => setMaterial(Number(to))}
        />
      )}
      <label className="block">
        <span className="mr-2 text-[13px] text-faded">the lot’s name or number</span>
        <input
          className="field w-44"
          maxLength={80}
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
      </label>
      <label className="block">
        <span className="mr-2 text-[13px] text-faded">it holds</span>
        <input
          className="field w-24"
          inputMode="decimal"
          value={typed}
          onChange={(e) => setTyped(e.target.value)}
        />{" "}
        {unit}
      </label>
      <button className="quiet" disabled={!sound || open.isPending}>
        Put it on the shelf
      </button>
      <p className="text-[13px] text-faded">
        A run that names the lot when it begins is taken out of it. Resins and fluids: see their{" "}
        <Link className="underline" to="/craft">
          cautions
        </Link>{" "}
        and safety data sheets; empty bottles and used fluid go where local rules say.
      </p>
    </form>
  );
}
