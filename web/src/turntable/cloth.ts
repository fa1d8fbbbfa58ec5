import { Color, DoubleSide, Matrix3, ShaderMaterial, Vector2, type Matrix4 } from "three";
import type { Dye } from "../shell/view";

const VERTEX = `
varying vec3 vNormal;
varying vec3 vWorld;
varying float vThick;
varying float vMark;
attribute float thick;
attribute float mark;
uniform mat3 turn;
void main() {
  vThick = thick;
  vMark = mark;
  vec4 world = modelMatrix * vec4(position, 1.0);
  vWorld = world.xyz;
  vNormal = normalize(turn * normal);
  gl_Position = projectionMatrix * viewMatrix * world;
}`;

const FRAGMENT = `
varying vec3 vNormal;
varying vec3 vWorld;
varying float vThick;
varying float vMark;
uniform vec3 body;
uniform vec3 hushed;
uniform vec3 held;
uniform vec3 alarm;
uniform vec2 limits;
uniform vec2 gap;
uniform vec3 shade;
uniform vec3 ink;
uniform vec3 cutColour;
uniform float cutZ;
uniform int dye;
uniform float limit;
uniform float plate;
uniform float see;
void main() {
  if (vWorld.z > cutZ) discard;
  if (!gl_FrontFacing && dye != 3 && cutZ < 1e8) {
    float weave = step(0.5, fract((gl_FragCoord.x + gl_FragCoord.y) / 7.0));
    gl_FragColor = vec4(mix(cutColour, cutColour * 0.8, weave), 1.0);
    #include <colorspace_fragment>
    return;
  }
  vec3 n = normalize(vNormal) * (gl_FrontFacing ? 1.0 : -1.0);
  vec3 toEye = normalize(cameraPosition - vWorld);
  vec3 right = normalize(cross(vec3(0.0, 0.0, 1.0), toEye));
  vec3 lamp = normalize(toEye * 0.55 - right * 0.55 + vec3(0.0, 0.0, 0.75));
  float light = 0.16 + 0.62 * clamp(dot(n, lamp), 0.0, 1.0) + 0.22 * clamp(dot(n, toEye), 0.0, 1.0);
  vec3 colour = mix(shade, body, light);
  if (dye == 1 && -n.z > limit && vWorld.z > plate + 0.3) {
    float column = floor(gl_FragCoord.x / 6.0);
    float rain = step(0.55, fract(gl_FragCoord.x / 6.0))
      * step(0.35, fract(gl_FragCoord.y / 9.0 + column * 0.5));
    colour = mix(colour, ink, 0.25 + 0.6 * rain);
  }
  if (dye == 2) {
    float lean = abs(n.z) > 0.9999 ? 0.0 : abs(n.z);
    float lines = step(1.0 - smoothstep(0.35, 1.0, lean) * 0.75, fract(gl_FragCoord.y / 5.0));
    colour = mix(colour, ink, lines * 0.8);
  }
  if (dye == 4) {
    // Below the wall's limit a dense weave, below the rod's an open one, up to twice that a thread.
    float warp = fract((gl_FragCoord.x + gl_FragCoord.y) / 6.0);
    float weft = fract((gl_FragCoord.x - gl_FragCoord.y) / 6.0);
    if (vThick < limits.x) colour = mix(colour, alarm, max(step(0.35, warp), step(0.35, weft)));
    else if (vThick < limits.y) colour = mix(colour, alarm, step(0.55, warp));
    else if (vThick < 2.0 * limits.y) colour = mix(colour, ink, 0.55 * step(0.82, warp));
  }
  if (dye == 5 || dye == 6) {
    // Each kind of mark in its own weave: bands, seigaiha rows, a lattice, a dense check, dots; threads of it where it counts softly.
    int kind = int(vMark + 0.5);
    vec2 q = gl_FragCoord.xy;
    if (kind == 1) colour = mix(colour, alarm, 0.16 + 0.62 * step(0.62, fract((q.x + q.y) / 9.0)));
    else if (kind == 2) {
      float row = fract(q.y / 6.0 + 0.25 * sin(q.x / 3.0));
      colour = mix(colour, hushed, 0.30 + 0.45 * step(0.72, row));
    }
    else if (kind == 3) {
      float lattice = max(step(0.8, fract(q.x / 7.0)), step(0.8, fract(q.y / 7.0)));
      colour = mix(colour, ink, 0.10 + 0.6 * lattice);
    }
    else if (kind == 4) {
      float check = abs(step(0.5, fract(q.x / 8.0)) - step(0.5, fract(q.y / 8.0)));
      colour = mix(colour, ink, 0.78 * check + 0.12);
    }
    else if (kind == 11) {
      float thread = step(0.86, fract((q.x + q.y) / 9.0));
      colour = mix(colour, alarm, 0.10 + 0.42 * thread);
    }
    else if (kind == 12) {
      float thread = step(0.86, fract(q.y / 6.0 + 0.25 * sin(q.x / 3.0)));
      colour = mix(colour, hushed, 0.16 + 0.30 * thread);
    }
    else if (kind == 5) colour = mix(colour, held, 0.14 + 0.7 * (1.0 - step(2.2, length(mod(q, 7.0) - 3.5))));
  }
  if (dye == 6 && -n.z > limit && vWorld.z > plate + 0.3) {
    // Where supports would scar: indigo rain, thin on what is hidden; the alarm only where a mark says that it matters.
    int kind = int(vMark + 0.5);
    float column = floor(gl_FragCoord.x / 5.0);
    float rain = step(0.5, fract(gl_FragCoord.x / 5.0))
      * step(0.3, fract(gl_FragCoord.y / 9.0 + column * 0.5));
    bool matters = kind == 1 || kind == 3 || kind == 4 || kind == 11;
    float heavy = (matters ? 0.3 : 0.1) + 0.6 * rain;
    colour = mix(colour, matters ? alarm : ink, kind == 2 || kind == 12 ? 0.35 * rain : heavy);
  }
  if (dye == 7) {
    // Open between perimeters and roofs: a torn weave in alarm; what roofs and floors close: laid lines.
    float lean = abs(n.z);
    if (lean > gap.x && lean < gap.y) {
      float tear = max(step(0.6, fract(gl_FragCoord.x / 5.0)), step(0.6, fract(gl_FragCoord.y / 5.0)));
      colour = mix(colour, alarm, 0.25 + 0.65 * tear);
    } else if (lean >= gap.y && vWorld.z > plate + 0.3)
      colour = mix(colour, ink, 0.5 * step(0.72, fract((gl_FragCoord.x - gl_FragCoord.y) / 8.0)));
  }
  if (dye == 3) {
    float edge = pow(1.0 - abs(dot(n, toEye)), 1.6);
    gl_FragColor = vec4(mix(shade, body, 0.3), 0.06 + 0.5 * edge);
    #include <colorspace_fragment>
    return;
  }
  gl_FragColor = vec4(colour, see);
  #include <colorspace_fragment>
}`;

export type Part = "figure" | "supports" | "overlay";

/** How a part looks now. */
export interface Look {
  part: Part;
  dye: Dye;
  night: boolean;
  matrix: Matrix4;
  /** mm above the plate; nothing above it is drawn. */
  cut: number | null | undefined;
  /** What faces down by more than this share needs a support. */
  limit: number;
  /** Printed mm of walls and rods, where the thickness lies on the geometry. */
  limits?: [number, number];
  /** |n_z| between which slopes stay open. */
  gap?: [number, number];
  marked?: boolean;
}

const uniforms = () => ({
  body: { value: new Color("#d9d3c6") },
  shade: { value: new Color("#454c60") },
  ink: { value: new Color("#20375f") },
  hushed: { value: new Color("#6f8fbc") },
  held: { value: new Color("#4c6b3c") },
  cutColour: { value: new Color("#c4622d") },
  alarm: { value: new Color("#c4622d") },
  cutZ: { value: 1e9 },
  dye: { value: 0 },
  limits: { value: new Vector2(0.3, 0.4) },
  gap: { value: new Vector2(1, 1) },
  limit: { value: 0.94 },
  plate: { value: 0 },
  see: { value: 1 },
  turn: { value: new Matrix3() },
});

/** The figure's surface: light that shows relief, a cut that shows woven cloth, and one dye at a time. */
export class Cloth extends ShaderMaterial {
  private readonly told = uniforms();

  constructor() {
    super({ vertexShader: VERTEX, fragmentShader: FRAGMENT, side: DoubleSide });
    this.uniforms = this.told;
  }

  dress(look: Look) {
    const u = this.told;
    u.turn.value.setFromMatrix4(look.matrix);
    if (look.part === "overlay") this.alarm();
    else this.plain(look, look.part === "supports");
    this.needsUpdate = true;
  }

  private alarm() {
    this.told.body.value.set("#c4622d");
    this.told.shade.value.set("#8a3f16");
    this.told.dye.value = 0;
    this.polygonOffset = true;
    this.polygonOffsetFactor = this.polygonOffsetUnits = -2;
  }

  private plain({ dye, night, cut, limit, limits, gap, marked }: Look, supports: boolean) {
    const u = this.told;
    const dyes = {
      plain: 0,
      ceilings: 1,
      steps: 2,
      "x-ray": 3,
      thickness: limits ? 4 : 0,
      marks: marked ? 5 : 0,
      scars: marked ? 6 : 0,
      gaps: gap ? 7 : 0,
    };
    u.limits.value.set(...(limits ?? [0.3, 0.4]));
    u.gap.value.set(...(gap ?? [1, 1]));
    u.body.value.set(supports ? (night ? "#7fa0cc" : "#9db4d2") : night ? "#cfcabd" : "#d9d3c6");
    u.shade.value.set(supports ? "#3d5f92" : night ? "#2c3550" : "#454c60");
    u.cutColour.value.set(supports ? "#7896bd" : "#c4622d");
    u.cutZ.value = cut ?? 1e9;
    u.dye.value = supports ? (dye === "x-ray" ? 3 : 0) : dyes[dye];
    u.limit.value = limit;
    this.transparent = dye === "x-ray";
    this.depthWrite = dye !== "x-ray";
  }
}
