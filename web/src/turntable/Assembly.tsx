import { Canvas } from "@react-three/fiber";
import { useEffect, useMemo, useState } from "react";
import { Box3, Matrix4, Vector3, type BufferGeometry } from "three";
import { useView } from "../shell/view";
import { fetchMesh } from "./mesh";
import { Body, Mat, Stand } from "./Turntable";

/** Several parts at once, in place or side by side. */
export function Assembly({ shas, label, together }: { shas: string[]; label: string; together: boolean }) {
  const [parts, setParts] = useState<BufferGeometry[]>([]);
  const night = useView((s) => s.theme) === "night";
  useEffect(() => {
    let here = true;
    void Promise.all(shas.map(fetchMesh)).then((g) => here && setParts(g));
    return () => { here = false; };
  }, [shas.join()]);
  const { places, box } = useMemo(() => {
    const whole = new Box3();
    for (const g of parts) whole.union(g.boundingBox!);
    let x = 0;
    const places = parts.map((g) => {
      const b = g.boundingBox!;
      const m = new Matrix4();
      if (together) m.makeTranslation(-(whole.min.x + whole.max.x) / 2, -(whole.min.y + whole.max.y) / 2, -whole.min.z);
      else {
        m.makeTranslation(x - b.min.x, -(b.min.y + b.max.y) / 2, -b.min.z);
        x += b.max.x - b.min.x + 4;
      }
      return m;
    });
    const box = new Box3();
    parts.forEach((g, i) => box.union(g.boundingBox!.clone().applyMatrix4(places[i])));
    return { places, box: parts.length ? box : new Box3(new Vector3(-10, -10, 0), new Vector3(10, 10, 20)) };
  }, [parts, together]);
  const radius = Math.max(10, (box.max.x - box.min.x) / 2 + 2, (box.max.y - box.min.y) / 2 + 2);
  return (
    <div data-turntable tabIndex={0} role="group" aria-label={`${label}. Arrow keys turn it.`} className="relative h-full min-h-0 overflow-hidden bg-folded">
      <Canvas orthographic flat frameloop="demand" dpr={[1, 2]} camera={{ near: 1, far: 2000, position: [250, -530, 150], up: [0, 0, 1] }} gl={{ alpha: true, antialias: true }} className="absolute inset-0" aria-hidden>
        <Stand box={box} />
        {together && <Mat radius={radius} night={night} />}
        {parts.map((g, i) => <Body key={i} geometry={g} matrix={places[i]} cut={null} night={night} part="figure" limit={0.94} />)}
      </Canvas>
      {!parts.length && <p className="absolute inset-x-0 top-1/2 text-center text-faded">The parts are on their way</p>}
    </div>
  );
}
