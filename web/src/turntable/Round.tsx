import { Canvas } from "@react-three/fiber";
import type { ReactNode } from "react";

interface Props {
  label: string;
  className?: string;
  /** Drawn behind the canvas, and over it. */
  behind?: ReactNode;
  over?: ReactNode;
  children: ReactNode;
}

/** Whether this browser draws in the round at all: asked once, of a canvas that is thrown away. */
let draws: boolean | null = null;
function drawsInTheRound(): boolean {
  draws ??= document.createElement("canvas").getContext("webgl2") !== null;
  return draws;
}

/** A table to turn: the canvas in which things stand, by keyboard too, and what lies around it. */
export function Round({ label, className = "", behind, over, children }: Props) {
  return (
    <div
      data-turntable
      // eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex -- arrow keys turn it
      tabIndex={0}
      role="group"
      aria-label={`${label}. Arrow keys turn it.`}
      className={`relative h-full min-h-0 overflow-hidden bg-folded ${className}`}
    >
      {behind}
      {drawsInTheRound() ? (
        <Canvas
          orthographic
          flat
          frameloop="demand"
          dpr={[0.5, 2]}
          camera={{ near: 1, far: 2000, position: [250, -530, 150], up: [0, 0, 1] }}
          gl={{ alpha: true, antialias: true }}
          className="absolute inset-0"
          aria-hidden
        >
          {children}
        </Canvas>
      ) : (
        <p
          role="status"
          className="absolute inset-x-6 top-6 border-l-4 border-persimmon bg-paper p-3"
        >
          This browser does not draw in the round (WebGL 2 is off or missing). Switch its hardware
          acceleration on, or use another browser. What is painted or set on the figure by hand
          waits for that; everything else works.
        </p>
      )}
      {over}
    </div>
  );
}
