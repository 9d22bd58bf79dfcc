/** Light or dark. */
import { Button } from "@chakra-ui/react";
import { Moon, Sun } from "lucide-react";
import { useMode } from "./mode";

export function ModeButton() {
  const { mode, toggle } = useMode();
  const says = mode === "light" ? "Dark colours" : "Light colours";
  return (
    <Button size="sm" variant="ghost" px="2" aria-label={says} title={says} onClick={toggle}>
      {mode === "light" ? <Moon size={16} /> : <Sun size={16} />}
    </Button>
  );
}
