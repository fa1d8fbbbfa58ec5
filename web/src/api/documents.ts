/** Documents of the core, as the contract names their fields. */
export interface Numbers { finish_mm: number; risk: number; time_s: number; cost: number; volume_ml: number; mass_g: number; unheld?: boolean }

export interface StripData {
  layer_height_mm: number; layers: number; layers_per_column: number;
  area_mm2: number[]; sealed_mm2: number[]; overhang_mm2: number[]; pull_n: number[]; has_pull: boolean; clock_s: number[]; time_s: number;
  tip_layers: number[]; slight_islands: number;
  islands: { layer: number; until: number; area_mm2: number; x_mm: number; y_mm: number }[];
  sealed: { layer: number; until: number; volume_mm3: number }[];
  hazards: { code: string; layer: number; severity: string }[];
}

export type Triple = [number, number, number];
export interface Finding { code: string; severity: string; count: number; message: string; place?: Triple | null }

export interface Intake {
  triangles: number; vertices: number; watertight: boolean; shells: number; size_mm: [number, number, number]; volume_mm3: number; area_mm2: number;
  unit_guess: "mm" | "cm" | "m" | "in"; findings: Finding[]; preview_sha: string; picture_sha: string; silhouette_sha: string; lower: number[]; hull: number[][];
  props: { count: number; raft: boolean; told_by: string } | null;
  cuts: { area: number; normal: Triple; place: Triple; faces: number; fits: { kind: "peg" | "socket"; reach: number; place: Triple; faces: number }[] }[];
}

export type Way = "original" | "repaired" | "united" | "remeshed" | "bare";
export interface Sections { layer_height_mm: number; area_mm2: number[]; base: number }
export interface Mend {
  way: Way; steps: { code: string; message: string; added: number; removed: number; volume_mm3: number | null; deviation_mm: number }[]; faces_new: number; open_left: number;
  triangles: number; watertight: boolean; shells: number; size_mm: Triple; volume_mm3: number; findings: Finding[];
  before: Sections; after: Sections; lower: number[]; preview_sha: string; changed_sha: string | null; taken_sha: string | null; sha: string;
}
export interface WeakPart { x: number; y: number; z: number; thickness: number; extent: number; width: number; kind: "rod" | "sheet"; limit: number; scale: number; remedies: string[] }
export interface Weak { limits: { sheet: number; rod: number }; parts: WeakPart[]; cure: number; thickness_sha: string }

export interface Proposals { proposals: { name: string; kind: string; share: number }[]; plane: { normal: Triple; offset: number; error: number } | null; labels_sha: string; file_sha: string | null }

export interface PoseRow {
  down: number[]; why: string; best_at: string[]; matrix: number[]; islands: unknown[]; sealed_mm3: number; overhang_mm2: number; peak_area_mm2: number;
  metrics: Record<string, number> & { support_area_mm2: number; scar_area_mm2: number; support_volume_mm3: number; height_mm: number; minima: number; plinth_mm?: number };
  strip: StripData; numbers: Numbers; picture_sha: string;
}
export interface PoseMapData { down: number[][]; aims: Record<string, number[]>; front: number[]; merit: number[]; wish: Record<string, number>; limit: number; names: Record<string, string> }
export interface PoseBoard { evaluated: number; candidates: PoseRow[]; recommended: number; map: PoseMapData }

export interface Hazard {
  code: string; severity: "severe" | "warning" | "notice"; layer: number; x_mm: number; y_mm: number; z_mm: number; message: string; remedy: string;
  chance: number; cost: string; has: number; needs: number; unit: string;
}
export interface SupportsRow {
  risk: number; tip_count: number; on_model: number; contact_mm2: number; raft: boolean; lift_mm: number; volume_ml: number; islands_before: number; islands_after: number;
  overhang_after_mm2: number; findings: Finding[]; strip: StripData; hazards: Hazard[]; numbers: Numbers; supports_sha: string | null; matrix: number[]; picture_sha: string;
}
export interface SupportsBoard { choices: SupportsRow[]; recommended: number; layer_height_mm: number }

export interface HeightRow {
  layer_height_mm: number; layers: number; time_s: number; material_g: number; cost: number; cusp_mm: { median: number; p95: number; max: number };
  step_kind: string; risk: number; blemishes: number; time_is: string; numbers: Numbers;
}
export interface HeightBoard { choices: HeightRow[]; recommended: number; why: string; strip: StripData; matrix: number[]; supports_sha: string | null }

export interface ProofDoc extends SupportsRow {
  islands: { layer: number; z_mm: number; area_mm2: number }[]; sealed: { volume_mm3: number }[]; trapped: { volume_mm3: number }[];
  layers: { height_mm: number; count: number; pitch_mm: number }; time_is: string; risk: number; overhang_area_mm2: number; files: Record<string, string>;
}
