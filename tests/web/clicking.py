"""A microphone that clicks: on every whole second of the machine's clock, and at the keys F and 1.

It stands in for a device (``getUserMedia``), so what is recorded can be held against when it
really was. It clicks within the recording context, so that only the recorder's own clock is between
its clicks and the machine's, and not the way of a stream, which takes as long as the machine likes.

Sound itself can break off on a busy machine: the context then stands still while time goes on, and
a click that was already set comes late. The page keeps those seconds in ``window.unsteady``: such a
click tells nothing of the recorder.
"""

import numpy as np

from tests.reference import RATE, Sound

UNHEARD = "The machine itself broke its sound off each time, so there was nothing to judge."

_SCRIPT = """
((loud) => {
  const now = () => (performance.timeOrigin + performance.now()) / 1000;
  const clicker = (context, out) => {
    const keep = new ConstantSourceNode(context, { offset: 1e-4 });
    keep.connect(out);
    keep.start();
    const buffer = new AudioBuffer({ length: 96, sampleRate: 48000 });
    buffer.getChannelData(0).fill(loud);
    const click = (when) => {
      const node = new AudioBufferSourceNode(context, { buffer });
      node.connect(out);
      node.start(when);
    };
    window.unsteady = [];
    const lags = [];
    const lag = () => Math.min(...lags);
    setInterval(() => {
      lags.push(now() - context.currentTime);
      if (lags.length > 60) lags.shift();
    }, 5);
    let next = 0;
    setInterval(() => {
      if (lags.length < 50) return;
      const soon = Math.ceil(now() + 0.25);
      if (soon === next) return;
      next = soon;
      const set = lag();
      click(soon - set);
      const check = () => { if (Math.abs(lag() - set) > 0.005) window.unsteady.push(soon); };
      for (const after of [100, 700, 1300]) setTimeout(check, after + 1000 * (soon - now()));
    }, 50);
    addEventListener('keydown', (event) => { if ('f1'.includes(event.key)) click(0); }, true);
  };
  let stream;
  const given = async () => {
    const context = new AudioContext({ sampleRate: 48000 });
    const out = new MediaStreamAudioDestinationNode(context, { channelCount: 1 });
    await context.resume();
    stream = out.stream;
    return stream;
  };
  const Heard = window.MediaStreamAudioSourceNode;
  window.MediaStreamAudioSourceNode = function (context, options) {
    if (options.mediaStream !== stream) return new Heard(context, options);
    const node = new GainNode(context);
    clicker(context, node);
    return node;
  };
  navigator.mediaDevices.getUserMedia = given;
  navigator.mediaDevices.enumerateDevices = async () => [
    { kind: 'audioinput', deviceId: 'clicking', label: 'Clicking microphone' },
  ];
})
"""

CLICKING = f"{_SCRIPT.strip()}(0.5);"
QUIET = f"{_SCRIPT.strip()}(0);"


def clicks(sound: Sound) -> np.ndarray:
    """The first frames of the clicks in ``sound``."""
    loud = np.flatnonzero(np.abs(sound) > 0.2)
    return loud[np.diff(loud, prepend=-RATE) > RATE // 50]
