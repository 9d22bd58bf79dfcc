/** What a batch does to each episode. */
import type { Recipe } from "../api/batches";
import type { Schemas } from "../api/client";
import { Dial } from "../theme/Dial";
import { LabelledPick, named } from "../theme/Pick";
import { Step } from "../theme/Step";

const TIDY = {
  "": "Left as they are",
  gentle: "Tidied gently: fillers, repeats, long air",
  close: "Tidied closely: all that can be heard",
} as const;

const OWN = "";
const TARGETS = [
  [OWN, "Each episode’s own target"],
  ["-19", "−19 LUFS, usual for mono"],
  ["-16", "−16 LUFS, usual for stereo"],
  ["-14", "−14 LUFS, loud"],
] as const;

const USUAL_CLEAN = 0.6;

interface Props {
  recipe: Recipe;
  formats: Schemas["FormatName"][];
  onChange: (recipe: Recipe) => void;
}

export function RecipeForm({ recipe, formats, onChange }: Props) {
  const set = (more: Partial<Recipe>) => onChange({ ...recipe, ...more });
  const clean = recipe.clean ?? 0;
  return (
    <>
      <LabelledPick
        name="Slips and fillers"
        value={recipe.tidy ?? ""}
        options={named(TIDY)}
        onPick={(how) => set({ tidy: how || null })}
      />
      <Step
        title="Lower the noise"
        about="By the way that each room calls for."
        on={recipe.clean !== null}
        toggle={() => set({ clean: recipe.clean === null ? USUAL_CLEAN : null })}
      >
        <Dial
          says="How far"
          unit="%"
          value={clean * 100}
          low={0}
          high={100}
          step={1}
          onTry={(percent) => set({ clean: percent / 100 })}
          onSet={(percent) => set({ clean: percent / 100 })}
        />
      </Step>
      <Step
        title="Lower the echo"
        about="Of rooms that ring."
        on={recipe.echo ?? false}
        toggle={() => set({ echo: !recipe.echo })}
      />
      <Step
        title="Even out phrases"
        about="Soft ones come nearer to loud ones."
        on={recipe.level ?? false}
        toggle={() => set({ level: !recipe.level })}
      />
      <LabelledPick
        name="Loudness, of every part and of the whole"
        value={String(recipe.target_lufs ?? OWN)}
        options={TARGETS}
        onPick={(lufs) => set({ target_lufs: lufs === OWN ? null : Number(lufs) })}
      />
      <LabelledPick
        name="File"
        value={recipe.file.format}
        options={formats.map(({ format, title }) => [format, title] as const)}
        onPick={(format) =>
          set({
            file: { ...recipe.file, format: format as typeof recipe.file.format, kbits: null },
          })
        }
      />
    </>
  );
}
