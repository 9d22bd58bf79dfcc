/** The microphones that are used: those remembered, or the system default. */
import { useEffect, useState } from "react";
import {
  MICROPHONE,
  type Microphone,
  openMicrophones,
  retune,
  useCapture,
} from "../../record/capture";
import { type Device, listDevices } from "../../record/microphones";
import { findAgain, type Remembered, recall, remember } from "../../record/remembered";

export interface Choice {
  devices: Device[];
  microphones: Microphone[];
  missing: string | null;
  /** Change them; `anew` where the devices have to be opened again for it. */
  set: (microphones: Microphone[], anew?: boolean) => void;
}

/** `track`: the name of the first one's track where nothing is remembered. `most`: how many. */
export function useMicrophones(track: string, most = 8): Choice {
  const [devices, setDevices] = useState<Device[]>([]);
  const [wanted, setWanted] = useState<Remembered[]>(recall);
  const on = useCapture((c) => c.phase === "on");
  // Names are told only once a microphone has been opened, so the list is made again then.
  useEffect(() => {
    const list = () => void listDevices().then(setDevices);
    list();
    if (!on) return;
    navigator.mediaDevices?.addEventListener("devicechange", list);
    return () => navigator.mediaDevices?.removeEventListener("devicechange", list);
  }, [on]);

  const first: Remembered = { ...MICROPHONE, name: "", track };
  const kept = (wanted.length ? wanted : [first]).slice(0, most);
  // Before the list is there, what is remembered stands.
  const again = (m: Remembered) => (devices.length ? (findAgain(devices, m)?.id ?? "") : m.device);
  const found = kept.map((m) => ({ ...m, device: again(m) }));
  const lost = devices.length ? kept.find((m) => !findAgain(devices, m)) : undefined;
  return {
    devices,
    microphones: found,
    missing: lost ? `“${lost.name}” is not plugged in. Another one is used until it is.` : null,
    set: (microphones, anew = true) => {
      const named = microphones.map((m) => ({
        ...m,
        name: devices.find((d) => d.id === m.device)?.name ?? "",
      }));
      setWanted(named);
      remember(named);
      const { phase } = useCapture.getState();
      if (phase === "off") return;
      // A device that is chosen while another one opens takes its place.
      if (anew) void openMicrophones(microphones);
      else retune(microphones);
    },
  };
}
