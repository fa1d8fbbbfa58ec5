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
      {over}
    </div>
  );
}
