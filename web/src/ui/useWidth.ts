import { useEffect, useRef, useState } from "react";

/** The width of an element, as it changes. */
export function useWidth<E extends HTMLElement>(first: number) {
  const ref = useRef<E>(null);
  const [width, setWidth] = useState(first);
  useEffect(() => {
    const watch = new ResizeObserver(([entry]) => setWidth(entry.contentRect.width));
    if (ref.current) watch.observe(ref.current);
    return () => watch.disconnect();
  }, []);
  return { ref, width };
}
