import { lazy, type ComponentType } from "react";

/** A component whose code comes when it is first shown. */
export const later = <P extends object>(load: () => Promise<ComponentType<P>>) =>
  lazy(async () => ({ default: await load() }));
