/**
 * Which revision the host saw, and where the places are that the host pointed at.
 *
 * Frames mean something only together with the revision of the document that they were read from.
 * Every place that the host points at (selection, playhead) keeps its revision, and every edit is
 * sent with the revision of its frames. The server maps them to the current document, or refuses.
 */
import { client, Problem, type Schemas, take } from "./client";

export type Mark = Schemas["Mark"];
/** A mark that the server mapped. */
export interface Place {
  revision: number;
  start: number;
  frames: number;
}

type Moved = { start: number; frames: number } | null;

/** A place that the host pointed at. `put` receives where it is on a later revision, if anywhere. */
export interface Pointed {
  mark: Mark;
  put: (moved: Place | null) => void;
  /** Hide the place until `put` is called: the screen shows another revision already. */
  hide?: () => void;
}

/** What was true when the host pressed a key or a button. */
export interface Press {
  revision: number;
  /** Number of own changes that were made, refused, or under way. */
  made: number;
  refused: number;
  underWay: number;
}

type Map = (episode: number, marks: Mark[]) => Promise<{ revision: number; marks: Moved[] }>;

const mapOnServer: Map = (episode, marks) =>
  take(
    client.POST("/api/episodes/{episode_id}/marks", {
      params: { path: { episode_id: episode } },
      body: { marks },
    }),
  );

const MOST_OWN = 200;

/** Changes of the open episode, as this client makes them. */
export class Changes {
  #map: Map;
  #holders: (() => Pointed[])[] = [];
  #episode = 0;
  #shown = 0;
  #own: number[] = [];
  #made = 0;
  #refused = 0;
  #underWay = 0;
  /** The newest revision that this client made or went to. */
  #last = 0;

  constructor(map: Map = mapOnServer) {
    this.#map = map;
  }

  /** The open episode. */
  get episode(): number {
    return this.#episode;
  }

  /** Revision of an episode on the screen; undefined for an episode that is not open. */
  shown(episode: number): number | undefined {
    return episode === this.#episode ? this.#shown : undefined;
  }

  /** Register a holder of places. It returns those that it holds now. */
  hold(holder: () => Pointed[]) {
    this.#holders.push(holder);
  }

  /** Call when a revision is on the screen. Places of other revisions are mapped to it. */
  show(episode: number, revision: number) {
    if (episode !== this.#episode) {
      this.#own = [];
      this.#episode = episode;
      this.#shown = revision;
      for (const place of this.#pointed()) place.put(null);
      return;
    }
    this.#shown = revision;
    this.settle();
  }

  /** Map places of other revisions to the one on the screen. */
  settle() {
    const stale = this.#pointed().filter(({ mark }) => mark.revision !== this.#shown);
    if (!stale.length) return;
    for (const place of stale) place.hide?.();
    const asked = stale.map(({ mark }) => mark);
    void this.#map(this.#episode, asked)
      .then((answer) => put(stale, answer.revision, answer.marks))
      .catch(() => put(stale, this.#shown, []));
  }

  /** Note what the host sees at a key press. */
  press(revision: number): Press {
    const [made, refused, underWay] = [this.#made, this.#refused, this.#underWay];
    this.#underWay += 1;
    return { revision, made, refused, underWay };
  }

  /** Own revisions after one, oldest first. */
  ownSince(revision: number): number[] {
    return this.#own.filter((own) => own > revision);
  }

  /**
   * Revision that undo or redo refers to: what this client made after the key press counts as seen,
   * since the host has just asked for it. Throws if one of those changes was refused.
   */
  stepFrom(press: Press): number {
    if (this.#refused > press.refused && press.underWay) {
      throw new Problem(
        "The change before was not made, so there is nothing to step back from.",
        0,
      );
    }
    return this.#made > press.made ? this.#last : press.revision;
  }

  /** Places to send with a change; call the result with the answer. */
  marks(episode: number): { marks: Mark[]; moved: (revision: number, to: Moved[]) => void } {
    const places = episode === this.#episode ? this.#pointed() : [];
    return {
      marks: places.map(({ mark }) => mark),
      moved: (revision, to) => put(places, revision, to),
    };
  }

  /** Note that a change was made. */
  succeeded(revision: number) {
    this.#underWay -= 1;
    this.#made += 1;
    this.#last = revision;
    this.#own = [...this.#own, revision].slice(-MOST_OWN);
  }

  /** Note that a change was refused. */
  failed() {
    this.#underWay -= 1;
    this.#refused += 1;
  }

  #pointed(): Pointed[] {
    return this.#holders.flatMap((holder) => holder());
  }
}

function put(places: Pointed[], revision: number, moved: Moved[]) {
  places.forEach((place, i) => {
    const to = moved[i];
    place.put(to ? { ...to, revision } : null);
  });
}

export const changes = new Changes();
