// What the parts of a cut's document call their sides and changes.
export const CLIP_SIDES = ['outgoing', 'incoming'] as const;
export type ClipSide = (typeof CLIP_SIDES)[number];
/** What a change means for the preview: another state, other source pictures, other clips. */
export type Changed = 'state' | 'framing' | 'clips';
