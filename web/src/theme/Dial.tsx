/** A value set by sliding or by typing; it is heard while it moves, and kept when it is let go. */
import { Flex, Input, Slider, Text } from "@chakra-ui/react";
import { useState } from "react";
import { complain } from "./toaster";

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
  const [text, setText] = useState<string | null>(null);
  const place = ratio ? Math.log(value / low) / Math.log(high / low) : (value - low) / (high - low);
  const at = (tick: number) => {
    const into = tick / TICKS;
    const exact = ratio ? low * (high / low) ** into : low + into * (high - low);
    return Math.min(high, Math.max(low, Number((Math.round(exact / step) * step).toFixed(4))));
  };
  const settle = () => {
    const number = Number(text?.replace("−", "-").replace(",", "."));
    if (text !== null && text.trim() !== "" && number !== value) {
      if (number >= low && number <= high) onSet(number);
      else
        complain(
          new Error(`${says}: between ${low} and ${high} ${unit}, please.`.replaceAll("-", "−")),
        );
    }
    setText(null);
  };
  return (
    <Flex direction="column" gap="0" mb="1.5" opacity={disabled ? 0.6 : 1}>
      <Flex align="center" gap="1">
        <Text fontSize="13px" flex="1">
          {says}
        </Text>
        <Input
          size="2xs"
          w="60px"
          px="1"
          textAlign="right"
          fontSize="13px"
          borderColor="rule"
          disabled={disabled}
          aria-label={`${says}, typed`}
          value={text ?? value.toFixed(digits).replace("-", "−")}
          onChange={(event) => setText(event.target.value)}
          onBlur={settle}
          onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
        />
        <Text fontSize="12px" color="quiet" w="26px">
          {unit}
        </Text>
      </Flex>
      <Slider.Root
        size="sm"
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
