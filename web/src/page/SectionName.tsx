/** The name of a section over its beginning, cut short where the next one begins; dragging it moves
 * the boundary. */

import { Box } from "@chakra-ui/react";
import { changedSection } from "../actions/sections";
import type { Edit, Episode } from "../api/client";
import { useDrag } from "./useDrag";

interface Props {
  section: Episode["sections"][number];
  episode: Episode;
  scale: number;
  left: number;
  right: number;
  onEdit: (edit: Edit) => void;
}

export function SectionName({ section, episode, scale, left, right, onEdit }: Props) {
  const { moved, props } = useDrag({
    scale,
    onDrop: (by) => {
      const at = Math.max(1, Math.min(episode.frames - 1, section.at + by));
      onEdit(changedSection(episode.sections, section.id, { at }));
    },
  });
  const held = section.at > 0;
  return (
    <Box
      as="span"
      {...(held ? props : {})}
      className={held ? "at-handle" : undefined}
      data-section={section.id}
      position="absolute"
      top="-18px"
      left={`${left + (moved?.x ?? 0)}px`}
      maxW={`${Math.max(24, right - left - 2)}px`}
      bg="ink"
      color="paper"
      fontSize="11px"
      px="6px"
      lineHeight="16px"
      borderRightRadius="3px"
      truncate
      cursor={held ? "ew-resize" : undefined}
      title={held ? `${section.name}. Drag to move where it begins.` : section.name}
    >
      {section.name}
    </Box>
  );
}
