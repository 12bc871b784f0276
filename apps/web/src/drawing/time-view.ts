import { Signal } from '../signal.js';
/** Least number of frames in the view: below this there is nothing to see. */
const LEAST_FRAMES = 64;

/** Which stretch of the session the strips show. Moves far too often for the store. */
export class TimeView {
  startFrame = 0;
  framesPerPx: number;
  widthPx = 800;
  #fitted = true;
  readonly #changes = new Signal();
  readonly subscribe = this.#changes.subscribe;

  #lengthFrames: number;

  constructor(lengthFrames: number) {
    this.#lengthFrames = lengthFrames;
    this.framesPerPx = lengthFrames / this.widthPx;
  }

  get lengthFrames(): number {
    return this.#lengthFrames;
  }

  /** The track got longer or shorter: who saw all of it still does; who was close stays as close. */
  setLength(lengthFrames: number): void {
    if (lengthFrames === this.#lengthFrames) return;
    this.#lengthFrames = lengthFrames;
    this.#set(this.startFrame, this.#fitted ? lengthFrames / this.widthPx : this.#held(this.framesPerPx));
  }

  get spanFrames(): number {
    return this.framesPerPx * this.widthPx;
  }

  get endFrame(): number {
    return this.startFrame + this.spanFrames;
  }

  resize(widthPx: number): void {
    if (widthPx === this.widthPx || widthPx < 1) return;
    const span = this.spanFrames;
    this.widthPx = widthPx;
    this.#set(this.startFrame, (this.#fitted ? this.lengthFrames : span) / widthPx);
  }

  frameAt(px: number): number {
    return this.startFrame + px * this.framesPerPx;
  }

  pxAt(frame: number): number {
    return (frame - this.startFrame) / this.framesPerPx;
  }

  /** Zooms by a factor (below 1: closer) around a pixel. */
  zoom(factor: number, aroundPx: number): void {
    const frame = this.frameAt(aroundPx);
    const framesPerPx = this.#held(this.framesPerPx * factor);
    this.#set(frame - aroundPx * framesPerPx, framesPerPx);
  }

  /** Goes to where another view is. */
  goTo({ startFrame, framesPerPx, widthPx }: Pick<TimeView, 'startFrame' | 'framesPerPx' | 'widthPx'>): void {
    this.widthPx = widthPx;
    this.#set(startFrame, this.#held(framesPerPx));
  }

  scroll(px: number): void {
    this.#set(this.startFrame + px * this.framesPerPx, this.framesPerPx);
  }

  /** Shows a stretch with a little room around it. */
  show(startFrame: number, endFrame: number): void {
    const room = (endFrame - startFrame) * 0.04;
    this.#set(startFrame - room, this.#held((endFrame - startFrame + 2 * room) / this.widthPx));
  }

  showAll(): void {
    this.#set(0, this.lengthFrames / this.widthPx);
  }

  /**
   * Moves on, by whole views, when the playhead has just left the view. Who has scrolled away from it looks at
   * something else, and is left there.
   */
  follow(frame: number, before: number): void {
    if (this.#shows(before) && !this.#shows(frame)) this.#set(frame - 0.05 * this.spanFrames, this.framesPerPx);
  }

  #shows(frame: number): boolean {
    return frame >= this.startFrame && frame < this.endFrame;
  }

  #held(framesPerPx: number): number {
    return Math.max(LEAST_FRAMES / this.widthPx, Math.min(this.lengthFrames / this.widthPx, framesPerPx));
  }

  #set(startFrame: number, framesPerPx: number): void {
    this.framesPerPx = framesPerPx;
    this.startFrame = Math.max(0, Math.min(this.lengthFrames - this.spanFrames, startFrame));
    this.#fitted = framesPerPx >= (this.lengthFrames / this.widthPx) * 0.999;
    this.#changes.tell();
  }
}
