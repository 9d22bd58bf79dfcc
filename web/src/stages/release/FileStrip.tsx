/** How loud a file is from its beginning to its end, beside the loudness it was made for. */
import { Box } from "@chakra-ui/react";

interface Props {
  lufs: (number | null)[];
  target: number;
  /** How much of it was heard, 0 to 1. */
  heard: number;
}

const HEIGHT = 34;
const ABOVE_LU = 9;
const BELOW_LU = 21;

export function FileStrip({ lufs, target, heard }: Props) {
  if (lufs.length < 2) return null;
  const top = (value: number) =>
    (HEIGHT * Math.min(ABOVE_LU + BELOW_LU, Math.max(0, target + ABOVE_LU - value))) /
    (ABOVE_LU + BELOW_LU);
  const bars = lufs.map((value, i) => {
    const y = value === null ? HEIGHT : top(value);
    return `M${i} ${HEIGHT}V${y.toFixed(1)}H${i + 1}V${HEIGHT}Z`;
  });
  const reached = Math.round(heard * lufs.length);
  const known = lufs.filter((value) => value !== null);
  const between = known.length
    ? `from ${Math.round(Math.min(...known))} to ${Math.round(Math.max(...known))} LUFS`
    : "silent";
  return (
    <Box
      asChild
      display="block"
      w="100%"
      color="quiet"
      css={{ "& .heard": { color: "pine.solid" }, "& line": { color: "apricot" } }}
    >
      <svg
        role="img"
        aria-label={`Loudness over time, ${between}`}
        height={HEIGHT}
        viewBox={`0 0 ${lufs.length} ${HEIGHT}`}
        preserveAspectRatio="none"
      >
        <path d={bars.join("")} fill="currentColor" opacity="0.35" />
        <path className="heard" d={bars.slice(0, reached).join("")} fill="currentColor" />
        <line
          x1="0"
          x2={lufs.length}
          y1={top(target)}
          y2={top(target)}
          stroke="currentColor"
          strokeWidth="1.5"
          vectorEffect="non-scaling-stroke"
        />
      </svg>
    </Box>
  );
}
