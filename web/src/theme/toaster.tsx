/** Short messages at the bottom: what went wrong, and what can be undone. */
import { Button, createToaster, Stack, Toast, Toaster } from "@chakra-ui/react";

const toaster = createToaster({ placement: "bottom", pauseOnPageIdle: true });

/** What would put an error right, by one press. */
interface Mend {
  says: string;
  go: () => void;
}

let mendOf: (error: unknown) => Mend | null = () => null;

/** Ask `known` what would put an error right: whoever is above knows where things are. */
export function mendWith(known: typeof mendOf) {
  mendOf = known;
}

const told = new WeakSet<Error>();

/** Tell of an error, once, whoever hears of it. */
export function complain(error: unknown) {
  if (error instanceof Error) {
    if (told.has(error)) return;
    told.add(error);
  }
  const description = error instanceof Error ? error.message : "That did not work.";
  const mend = mendOf(error);
  toaster.create({
    description,
    type: "error",
    duration: mend ? 15_000 : 9000,
    action: mend ? { label: mend.says, onClick: mend.go } : undefined,
  });
}

export function announce(description: string, undo?: () => void) {
  toaster.create({
    description,
    type: "info",
    duration: undo ? 10_000 : 6000,
    action: undo ? { label: "Undo", onClick: undo } : undefined,
  });
}

export function Messages() {
  return (
    <Toaster toaster={toaster} insetInline={{ mdDown: "4" }}>
      {(toast) => (
        <Toast.Root
          width={{ md: "md" }}
          bg="raised"
          color="ink"
          borderWidth="1px"
          borderColor={toast.type === "error" ? "trouble" : "rule"}
          boxShadow="md"
        >
          <Stack gap="1" flex="1">
            <Toast.Description color="ink">{toast.description}</Toast.Description>
          </Stack>
          {toast.action && (
            <Toast.ActionTrigger asChild>
              <Button size="xs" colorPalette="pine" variant="surface" color="pine.fg">
                {toast.action.label}
              </Button>
            </Toast.ActionTrigger>
          )}
          <Toast.CloseTrigger color="quiet" />
        </Toast.Root>
      )}
    </Toaster>
  );
}
