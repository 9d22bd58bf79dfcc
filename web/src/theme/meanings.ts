/** What units and measures mean here, and what is good: for who meets them for the first time. */

export const MEANINGS = {
  LUFS:
    "How loud it is to a listener, over its whole length. Nearer to zero is louder. Spoken shows " +
    "usually end up at −16 in stereo and −19 in mono, which sound alike.",
  LU: "A step of loudness. One is only just heard; at three, people turn the volume.",
  dBTP:
    "The highest peak, also between samples. At −1 or lower nothing breaks up when apps turn the " +
    "file into their own format.",
  dBFS:
    "How far a level is below the loudest that can be stored, which is 0. Speak so that the " +
    "loudest words reach −12 to −6: at 0 they break up for good.",
  "Phrases apart":
    "How far the loudness of a voice’s phrases lies apart. Below 4 LU nobody reaches for the " +
    "volume; “Even out phrases” brings them nearer.",
  Gain: "How much louder or softer it is made. By 10 dB it sounds about twice as loud.",
  Room:
    "What is left where nobody speaks. Forty dB and more below the voice is quiet; at twenty it " +
    "is heard all the time.",
  "kbit/s":
    "How much of the file each second takes. For one voice in mono 96 is plenty, for stereo with " +
    "music 128; more makes the file larger and is not heard in speech.",
} as const;

export type Measure = keyof typeof MEANINGS;
