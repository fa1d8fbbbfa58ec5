import { useCallback, useMemo, useState, type FormEvent } from "react";
import { Link } from "react-router";
import { Matrix4, Vector3 } from "three";
import { usePoses } from "../api/boards";
import {
  api,
  need,
  type Intake,
  type Mend,
  type Place,
  type PlanState,
  type Problem,
  type Schemas,
  type Way,
  type Weak,
} from "../api/client";
import { useFits, useMend } from "../api/figure";
import { useMaterials, usePlanChange, usePrinters } from "../api/queries";
import { count } from "../shell/format";
import { useView } from "../shell/view";
import type { Foot, Item, ItemOf, Section, Turn } from "../stage/scene";
import { useStage } from "./board";
import { Deciding, Heading } from "./Heading";
import { Earlier } from "./size/Earlier";
import { Fields, type Marks, type Measured } from "./size/Fields";
import { KitBand } from "./size/KitBand";
import { Machines, Room, SLACK } from "./size/Machines";
import { ThinnerCopy, Units, UNIT } from "./size/Notes";
import { Ruler } from "./size/Ruler";
import { Stands } from "./size/Stands";
import { alike, onItsFeet, stood, turnedOn, turnOf } from "./size/stood";
import { Verdict, verdict } from "./size/Verdict";
import { WeakParts } from "./size/WeakParts";
import { afterOf, foldOf, type FoldProps } from "./types";

export function SizeFold(props: FoldProps) {
  const { plan, intake } = props;
  if (!intake)
    return <Heading title={foldOf(plan, "size").question} line="The file is being examined." />;
  // A decision that was taken, taken back or brought back elsewhere is where the fields begin.
  return <Sizing key={`${plan.head}`} {...props} intake={intake} />;
}

const sectionOf = (title: string, s: Mend["before"], k: number): Section => ({
  title,
  layer_height_mm: s.layer_height_mm * k,
  area_mm2: s.area_mm2.map((a) => a * k * k),
  base: s.base * k,
});

/** The ribbon of the pose that is settled, if there is one. */
function useSettledStrip(plan: PlanState) {
  const posed = foldOf(plan, "pose");
  const board = usePoses(plan, posed.state === "settled").document;
  return board?.candidates.at(posed.choice?.option ?? 0)?.strip;
}

function useSize(plan: PlanState, settled: FoldProps["settled"]) {
  const { fail } = useView();
  const change = usePlanChange(plan.id, (body: Schemas["SizeDecision"]) =>
    need(api.POST("/api/plans/{number}/size", { params: { path: { number: plan.id } }, body })),
  );
  return {
    busy: change.isPending,
    take: (body: Omit<Schemas["SizeDecision"], "head" | "reason">) =>
      change.mutate(
        { ...body, head: plan.head, reason: "" },
        { onSuccess: (state) => settled(afterOf(state, "size")), onError: fail },
      ),
  };
}

/** The up for a face that was pointed at, and where the figure faces then. */
const pointedAt = (number: number, way: Way, down: Place) =>
  need(
    api.POST("/api/figures/{number}/stand", {
      params: { path: { number }, query: { way } },
      body: { down },
    }),
  );

function Sizing({ plan, intake, show, settled }: FoldProps & { intake: Intake }) {
  const fold = foldOf(plan, "size");
  const chosen = fold.choice;
  const printers = usePrinters().data ?? [];
  const materials = useMaterials().data ?? [];
  const [factor, setFactor] = useState(
    chosen?.factor ?? (plan.unit ? 1 : UNIT[intake.health.unit_guess]),
  );
  const [printerId, setPrinterId] = useState(chosen?.printer_id ?? 0);
  const [materialId, setMaterialId] = useState(chosen?.material_id ?? 0);
  const [way, setWay] = useState<Way>((chosen?.mesh as Way | null | undefined) ?? "ready");
  const [marks, setMarks] = useState<Marks>({
    eye: chosen?.eye_z ?? null,
    crown: chosen?.crown_z ?? null,
  });
  const [marking, setMarking] = useState<keyof Marks | "foot" | null>(null);
  const guess = intake.upright;
  const [stands, setStands] = useState({
    up: chosen?.up ?? guess.ups[0].up,
    front: chosen?.front ?? guess.ups[0].front,
  });
  const [turning, setTurning] = useState(false);
  const onTurn: Turn = useCallback((axis, angle) => {
    setMarks({ eye: null, crown: null });
    setStands((s) => turnedOn(s.up, s.front, axis, angle));
  }, []);
  const { fail } = useView();
  const [pin, setPin] = useState<ItemOf<"pin"> | null>(null);
  const [weak, setWeak] = useState<Weak | null>(null);
  const made = useMend(plan.figure_id, way);
  const { take, busy } = useSize(plan, settled);
  const mend = way === "ready" ? null : made.document;
  const turn = useMemo(() => turnOf(stands.up, stands.front), [stands]);
  const told = (mend ?? intake).upright;
  const measured: Measured = useMemo(
    () => stood(intake.hull, turn, told.ups.find((u) => alike(u.up, stands.up))?.height),
    [intake.hull, turn, told, stands.up],
  );
  const printer = printers.find((p) => p.id === printerId) ?? printers.at(0);
  const fitting = materials.filter((m) => m.process === printer?.process);
  const material = fitting.find((m) => m.id === materialId) ?? fitting.at(0);
  const matrix = useMemo(() => onItsFeet(turn, factor, measured), [turn, factor, measured]);
  const stand = (up: Place, front: Place) => {
    // Eye and crown are heights along the up that they were marked on.
    if (!alike(up, stands.up)) setMarks({ eye: null, crown: null });
    setStands({ up, front });
  };
  const figure = plan.figure_id;
  const onPick = useCallback(
    (p: Vector3, normal: Vector3) => {
      if (marking === "foot")
        pointedAt(figure, way, normal.toArray()).then(
          ({ up, front }) => {
            setMarks({ eye: null, crown: null });
            setStands({ up, front });
          },
          (problem: Problem) => fail(problem),
        );
      else if (marking) setMarks((m) => ({ ...m, [marking]: p.dot(new Vector3(...stands.up)) }));
      setMarking(null);
    },
    [marking, figure, way, stands.up, fail],
  );
  const point = (place: Place, text: string) => {
    const p = new Vector3(...place).applyMatrix4(new Matrix4().fromArray(matrix));
    setPin({ kind: "pin", x: p.x, y: p.y, z: p.z, text, face: true });
  };
  const strip = useSettledStrip(plan);
  const overlay = mend?.taken_sha ?? mend?.changed_sha;
  const items: Item[] = [
    {
      kind: "figure",
      sha: mend?.preview_sha ?? intake.preview_sha,
      matrix,
      thick: weak && {
        sha: weak.thickness_sha,
        limits: [weak.limits.sheet ?? 0, weak.limits.rod ?? 0],
      },
    },
    ...(overlay ? [{ kind: "overlay" as const, sha: overlay }] : []),
    ...(pin ? [pin] : []),
    ...(marking ? [{ kind: "picker" as const, onPick }] : []),
    ...(turning && !marking ? [{ kind: "hand" as const, onTurn }] : []),
  ];
  const foot: Foot =
    mend && overlay
      ? {
          kind: "two figures",
          above: sectionOf("the file's figure", mend.before, factor),
          below: sectionOf("the copy", mend.after, factor),
        }
      : strip
        ? { kind: "strip", data: strip }
        : {
            kind: "empty",
            low: true,
            text: "Once size, printer and pose are settled, the figure's ribbon lies here.",
          };
  useStage(show, { items, foot }, [strip, matrix, pin, mend, weak, marking, turning, intake]);
  const fits = useFits(plan.figure_id);
  const room = fits?.find((f) => f.printer_id === printer?.id);
  const tooLarge = !!room && factor > room.factor * SLACK;
  const refused = way === "ready" && intake.ready.refused;
  const ready = !!printer && !!material && !refused && (way === "ready" || !!mend);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (!ready || tooLarge) return;
    take({
      factor,
      printer_id: printer.id,
      material_id: material.id,
      mesh: way,
      up: stands.up,
      front: stands.front,
      eye_z: marks.eye,
      crown_z: marks.crown,
    });
  };
  const size = measured.size_mm.map((v) => v * factor);
  return (
    <form onSubmit={submit}>
      <Heading title={fold.question} line={lineOf(plan, intake)} said={verdict(intake, factor)} />
      {plan.thinned && (
        <ThinnerCopy thinned={plan.thinned} factor={factor} layer={room?.layer_mm} />
      )}
      {plan.head == null && <Earlier plan={plan} />}
      {chosen && (
        <p className="mb-2 text-[13.5px]">
          <Link className="text-indigo underline" to={`/cut/${plan.id}`}>
            Cut it into parts
          </Link>{" "}
          <span className="text-faded">
            where a limb wants a pose of its own, or the whole does not fit
          </span>
        </p>
      )}
      {plan.kit_id != null && <KitBand kit={plan.kit_id} figure={plan.figure_id} />}
      <div className="flex flex-wrap gap-x-6 gap-y-3">
        <div className="min-w-[320px] flex-1 space-y-2.5">
          <Stands
            upright={told}
            {...stands}
            pointing={marking === "foot"}
            turning={turning}
            onStand={stand}
            onPointing={(on) => setMarking(on ? "foot" : null)}
            onTurning={setTurning}
          />
          <Fields
            measured={measured}
            factor={factor}
            onFactor={setFactor}
            marks={marks}
            marking={marking === "foot" ? null : marking}
            onMarking={setMarking}
          />
          {!plan.unit && intake.health.unit_guess !== "mm" && (
            <Units
              guess={intake.health.unit_guess}
              tall={measured.size_mm[2]}
              factor={factor}
              onFactor={setFactor}
            />
          )}
          <Machines
            printers={printers}
            printer={printer}
            onPrinter={setPrinterId}
            materials={fitting}
            material={material}
            onMaterial={setMaterialId}
          />
          {fits && (
            <Room printers={printers} fits={fits} factor={factor} tall={measured.size_mm[2]} />
          )}
        </div>
        <Ruler
          silhouette={
            alike(stands.up, guess.ups[0].up) && alike(stands.front, guess.ups[0].front)
              ? intake.silhouette_sha
              : null
          }
          size={size}
        />
      </div>
      <div className="mt-3">
        <Verdict
          intake={intake}
          factor={factor}
          way={way}
          onWay={(w) => {
            setWay(w);
            setPin(null);
          }}
          made={made}
          onPlace={point}
          on={printer && material ? { printer_id: printer.id, material_id: material.id } : null}
        />
        {chosen?.factor != null && chosen.printer_id != null && (
          <WeakParts
            figure={plan.figure_id}
            printer={chosen.printer_id}
            factor={chosen.factor}
            way={(chosen.mesh as Way | null | undefined) ?? "ready"}
            onWeak={setWeak}
            onPlace={(w, text) => {
              const k = chosen.factor ?? 1;
              point([w.x / k, w.y / k, w.z / k], text);
            }}
            onCure={(s) => setFactor((chosen.factor ?? 1) * s)}
          />
        )}
      </div>
      <Deciding said={tooLarge ? `Too large for ${printer?.name}: see where it fits above.` : ""}>
        <button className="take" disabled={!ready || tooLarge || busy}>
          {chosen ? "Take this size again" : "Take this size"}
        </button>
      </Deciding>
    </form>
  );
}

function lineOf(plan: PlanState, { health }: Intake): string {
  const shells = `${count(health.shells)} shell${health.shells > 1 ? "s" : ""}`;
  const closed = health.watertight ? "closed all round" : "not closed";
  const unit = plan.unit ? ", in mm as the file says" : "";
  return `${plan.file_name}: ${count(health.triangles)} triangles in ${shells}, ${closed}${unit}. `;
}
