/**
 * The call: who is there, what they are doing, and their voices. Our server introduces the browsers to
 * one another over a socket; the sound goes straight between them. No recording depends on it.
 */
import { create } from "zustand";
import { useShallow } from "zustand/react/shallow";
import { audio, speakers } from "../playback/audio";
import { outgoing, useCapture } from "./capture";
import { useTape } from "./tape";

export interface Peer {
  id: number;
  name: string;
  host: boolean;
  microphone: boolean;
  recording: boolean;
  /** Whether a way to them has been found. */
  reached: "no" | "trying" | "yes" | "failed";
  /** RMS of what came from them just now, 0 to 1. */
  level: number;
  muted: boolean;
}

interface State {
  /** Whether the socket is there. */
  there: boolean;
  peers: Peer[];
  /** The recording that the host is making, for guests. */
  recording: string | null;
  /** Names of the guests who were recorded since the host's recording began. */
  recorded: string[];
  /** Why a guest was shown out. */
  closed: string | null;
}

export const useCall = create<State>(() => ({
  there: false,
  peers: [],
  recording: null,
  recorded: [],
  closed: null,
}));

type Said =
  | { kind: "hello"; you: number; others: Shown[]; recording: string | null }
  | ({ kind: "came" | "doing" } & Shown)
  | { kind: "left"; id: number }
  | { kind: "begin" | "end"; recording: string }
  | { kind: "signal"; from: number; data: Signal };
type Shown = Pick<Peer, "id" | "name" | "host" | "microphone" | "recording">;
type Signal = { description: RTCSessionDescriptionInit } | { candidate: RTCIceCandidateInit };

const CLOSED_LINK = 4410;
const LOOK_EVERY_MS = 200;
/** So that a bar does not drop between words. */
const FALL = 0.6;

const set = useCall.setState;
const get = useCall.getState;

let socket: WebSocket | null = null;
let address = "";
let me = 0;
let again = 0;
let patience = 500;
const lines = new Map<number, Line>();

/** Stay in a call until `leaveCall`; a lost connection is made again. */
export function joinCall(path: string) {
  if (address === path) return;
  leaveCall();
  address = path;
  set({ closed: null });
  connect();
}

export function leaveCall() {
  address = "";
  clearTimeout(again);
  socket?.close();
  socket = null;
  hangUp();
  set({ there: false, peers: [], recording: null });
}

function connect() {
  const secure = location.protocol === "https:" ? "wss" : "ws";
  const mine = new WebSocket(`${secure}://${location.host}${address}`);
  socket = mine;
  mine.onmessage = ({ data }) => void heed(JSON.parse(data as string) as Said);
  mine.onclose = (event) => {
    if (socket !== mine) return;
    hangUp();
    set({ there: false, peers: [] });
    if (event.code === CLOSED_LINK) {
      set({ closed: event.reason || "This link does not lead here any more." });
      address = "";
      return;
    }
    again = window.setTimeout(connect, patience);
    patience = Math.min(5000, patience * 2);
  };
}

const say = (message: unknown) => {
  if (socket?.readyState === WebSocket.OPEN) socket.send(JSON.stringify(message));
};

const change = (id: number, more: Partial<Peer>) =>
  set(({ peers }) => ({ peers: peers.map((p) => (p.id === id ? { ...p, ...more } : p)) }));

async function heed(said: Said) {
  switch (said.kind) {
    case "hello":
      me = said.you;
      patience = 500;
      set({ there: true, recording: said.recording, peers: said.others.map(peerOf) });
      tellDoing();
      return meet();
    case "came":
      set(({ peers }) => ({ peers: [...peers.filter((p) => p.id !== said.id), peerOf(said)] }));
      return;
    case "doing":
      change(said.id, { microphone: said.microphone, recording: said.recording });
      return meet();
    case "left":
      lines.get(said.id)?.end();
      lines.delete(said.id);
      set(({ peers }) => ({ peers: peers.filter((p) => p.id !== said.id) }));
      return;
    case "begin":
      return set({ recording: said.recording });
    case "end":
      return set((s) => (s.recording === said.recording ? { recording: null } : s));
    case "signal":
      return lineTo(said.from).heed(said.data);
  }
}

const peerOf = (shown: Shown): Peer => ({ ...shown, reached: "no", level: 0, muted: false });

function tellDoing() {
  const recording = useTape.getState().phase === "recording";
  say({ kind: "doing", microphone: useCapture.getState().phase === "on", recording });
}
useTape.subscribe((now, before) => {
  if (now.phase !== before.phase) tellDoing();
  if (now.recording !== before.recording) set({ recorded: [] });
});
useCall.subscribe(({ peers, recorded }) => {
  const more = peers.filter((p) => !p.host && p.recording && !recorded.includes(p.name));
  if (more.length) set({ recorded: [...recorded, ...more.map((p) => p.name)] });
});

/** Guests who were recorded and are not recorded now, while the host is recording. */
export function useUnrecorded(): string[] {
  const recording = useTape((t) => t.phase === "recording");
  const { peers, recorded } = useCall(useShallow(({ peers, recorded }) => ({ peers, recorded })));
  const now = peers.filter((p) => p.recording).map((p) => p.name);
  return recording ? recorded.filter((name) => !now.includes(name)) : [];
}
useCapture.subscribe((now, before) => {
  if (now.phase === before.phase) return;
  tellDoing();
  if (now.phase === "on") meet();
  if (now.phase === "off") hangUp();
});

function hangUp() {
  for (const line of lines.values()) line.end();
  lines.clear();
  set(({ peers }) => ({ peers: peers.map((p) => ({ ...p, reached: "no", level: 0 })) }));
}

/** Call everybody whose microphone is on, once one's own is. Of two, the later comer calls. */
function meet() {
  if (!outgoing()) return;
  for (const peer of get().peers) {
    if (peer.microphone && peer.id < me && !lines.has(peer.id)) void lineTo(peer.id).offer();
  }
}

function lineTo(id: number): Line {
  let line = lines.get(id);
  if (!line) {
    line = openLine(id);
    lines.set(id, line);
  }
  return line;
}

/** Turn one voice of the call off or on; what is recorded stays as it is. */
export function muteVoice(id: number, muted: boolean) {
  change(id, { muted });
  lines.get(id)?.mute(muted);
}

interface Line {
  offer: () => Promise<void>;
  heed: (signal: Signal) => Promise<void>;
  mute: (muted: boolean) => void;
  end: () => void;
}

function openLine(id: number): Line {
  const line = new RTCPeerConnection();
  const early: RTCIceCandidateInit[] = [];
  const volume = new GainNode(audio());
  const meter = new AnalyserNode(audio(), { fftSize: 1024 });
  volume.connect(speakers());
  const player = new Audio();
  player.muted = true; // a voice from afar reaches the audio graph only while an element plays it
  const values = new Float32Array(meter.fftSize);
  let level = 0;
  const look = window.setInterval(() => {
    meter.getFloatTimeDomainData(values);
    const now = Math.sqrt(values.reduce((sum, v) => sum + v * v, 0) / values.length);
    level = Math.max(now, level * FALL);
    change(id, { level });
  }, LOOK_EVERY_MS);
  const mine = outgoing();
  for (const track of mine?.getTracks() ?? []) line.addTrack(track, mine as MediaStream);
  change(id, { reached: "trying" });
  line.onicecandidate = ({ candidate }) => {
    if (candidate) say({ kind: "signal", to: id, data: { candidate: candidate.toJSON() } });
  };
  line.ontrack = ({ streams, track }) => {
    const stream = streams[0] ?? new MediaStream([track]);
    player.srcObject = stream;
    void player.play().catch(() => undefined);
    const voice = new MediaStreamAudioSourceNode(audio(), { mediaStream: stream });
    voice.connect(meter);
    voice.connect(volume);
  };
  line.onconnectionstatechange = () => {
    const state = line.connectionState;
    if (state === "connected") change(id, { reached: "yes" });
    if (state === "failed") change(id, { reached: "failed" });
  };
  const describe = async () => {
    await line.setLocalDescription();
    say({ kind: "signal", to: id, data: { description: line.localDescription } });
  };
  return {
    offer: describe,
    heed: async (signal) => {
      if ("candidate" in signal) {
        if (line.remoteDescription) await line.addIceCandidate(signal.candidate);
        else early.push(signal.candidate);
        return;
      }
      await line.setRemoteDescription(signal.description);
      for (const candidate of early.splice(0)) await line.addIceCandidate(candidate);
      if (signal.description.type === "offer") await describe();
    },
    mute: (muted) => {
      volume.gain.value = muted ? 0 : 1;
    },
    end: () => {
      clearInterval(look);
      player.srcObject = null;
      volume.disconnect();
      line.close();
    },
  };
}
