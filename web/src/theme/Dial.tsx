/** A value set by sliding or by typing; it is heard while it moves, and kept when it is let go. */
import { Flex, Slider, Text } from "@chakra-ui/react";
import { NumberField } from "./fields/NumberField";

interface Props {
  says: string;
  unit: string;
  value: number;
  low: number;
  high: number;
  step: number;
  digits?: number;
  /** Equal steps are equal ratios: for frequencies and times. */
  ratio?: boolean;
  disabled?: boolean;
  onTry: (value: number) => void;
  onSet: (value: number) => void;
}

const TICKS = 200;

export function Dial(props: Props) {
  const { says, unit, value, low, high, step, digits = 0, ratio, disabled, onTry, onSet } = props;
  const place = ratio ? Math.log(value / low) / Math.log(high / low) : (value - low) / (high - low);
  const at = (tick: number) => {
    const into = tick / TICKS;
    const exact = ratio ? low * (high / low) ** into : low + into * (high - low);
    return Math.min(high, Math.max(low, Number((Math.round(exact / step) * step).toFixed(4))));
  };
  return (
    <Flex direction="column" gap="0" mb="1.5" opacity={disabled ? 0.6 : 1}>
      <Flex align="center" gap="1">
        <Text fontSize="13px" flex="1">
          {says}
        </Text>
        <NumberField
          size="2xs"
          w="60px"
          px="1"
          textAlign="right"
          fontSize="13px"
          borderColor="rule"
          disabled={disabled}
          label={`${says}, typed`}
          {...{ value, low, high, unit, digits, onSet }}
        />
        <Text fontSize="12px" color="quiet" w="26px">
          {unit}
        </Text>
      </Flex>
      <Slider.Root
        size="sm"
        my="-1"
        colorPalette="pine"
        min={0}
        max={TICKS}
        step={1}
        disabled={disabled ?? false}
        value={[Math.round(Math.min(1, Math.max(0, place)) * TICKS)]}
        aria-label={[says]}
        onValueChange={(e) => onTry(at(e.value[0] ?? 0))}
        onValueChangeEnd={(e) => onSet(at(e.value[0] ?? 0))}
      >
        <Slider.Control>
          <Slider.Track bg="rule">
            <Slider.Range />
          </Slider.Track>
          <Slider.Thumb index={0}>
            <Slider.HiddenInput />
          </Slider.Thumb>
        </Slider.Control>
      </Slider.Root>
    </Flex>
  );
}
