/** How wide an element is now. */
import { useEffect, useRef, useState } from "react";

export function useWidth(first: number) {
  const ref = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(first);
  useEffect(() => {
    const host = ref.current;
    if (!host) return;
    const watch = new ResizeObserver(() => setWidth(host.clientWidth));
    watch.observe(host);
    return () => watch.disconnect();
  }, []);
  return [ref, width] as const;
}
