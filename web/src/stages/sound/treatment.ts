/** A track's chain while it is worked on: what is tried, what is heard, and a second setting. */
import { useEffect, useRef, useState } from "react";
import type { Chain, Episode, Track } from "../../api/client";
import { useEdit } from "../../api/queries";
import { listen } from "../../playback/player";
import { type Span, useView } from "../../view/view";

export type Hear = "treated" | "untouched" | "taken_out";

export interface Treatment {
  /** What is shown and heard: the setting that is worked on. */
  chain: Chain;
  hear: Hear;
  setHear: (hear: Hear) => void;
  /** The second setting, and whether it is the one worked on. */
  second: Chain | null;
  onSecond: boolean;
  keepSecond: () => void;
  switchSecond: () => void;
  /** Hear a chain without keeping it. */
  attempt: (chain: Chain) => void;
  /** Keep a chain, as a step of the history with a name. */
  set: (chain: Chain, name: string) => void;
  /** Put the second setting into the episode. */
  takeSecond: (chain: Chain, name: string) => void;
  /** Where it is listened to. */
  span: Span;
}

export function useTreatment(episode: Episode, track: Track, sample: Span): Treatment {
  const edit = useEdit(episode.id);
  const selection = useView((v) => v.selection);
  const [tried, setTried] = useState<Chain | null>(null);
  const [hear, setHear] = useState<Hear>("treated");
  const [second, setSecond] = useState<Chain | null>(null);
  const [onSecond, setOnSecond] = useState(false);
  const span = selection ?? sample;
  /** Chains that are on their way to the server: the last of them is what will be there. */
  const sent = useRef(new Set<Chain>());
  const last = [...sent.current].at(-1);
  const chain = onSecond && second ? second : (tried ?? last ?? track.chain);

  // What was tried ends with a change, but not with the answer to a step before it.
  // biome-ignore lint/correctness/useExhaustiveDependencies: it is a change that ends it
  useEffect(() => setTried((now) => (sent.current.size ? now : null)), [episode.revision]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another track has a chain of its own
  useEffect(() => {
    sent.current.clear();
    setTried(null);
  }, [track.id]);

  useEffect(() => {
    const asSet = !tried && !onSecond && hear === "treated";
    const frames = Math.max(1, Math.min(span.end - span.start, 1_440_000));
    listen(asSet ? null : { track: track.id, chain, hear, start: span.start, frames });
  }, [tried, onSecond, hear, chain, track.id, span.start, span.end]);
  useEffect(() => () => listen(null), []);

  const commit = (next: Chain, name: string) => {
    setTried(next);
    sent.current.add(next);
    edit
      .mutateAsync({ kind: "set_chain", track: track.id, chain: next, name })
      .catch(() => undefined) // told where all edits are made
      .finally(() => {
        sent.current.delete(next);
        setTried((now) => (now === next ? null : now));
      });
  };
  return {
    chain,
    hear,
    setHear,
    second,
    onSecond,
    span,
    keepSecond: () => setSecond(chain),
    switchSecond: () => second && setOnSecond(!onSecond),
    attempt: (next) => (onSecond ? setSecond(next) : setTried(next)),
    set: (next, name) => (onSecond ? setSecond(next) : commit(next, name)),
    takeSecond: (next, name) => {
      setOnSecond(false);
      commit(next, name);
    },
  };
}
