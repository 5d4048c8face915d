// What the parts of a cut's document call their sides and changes.
export type ClipSide = 'outgoing' | 'incoming';
/** What a change means for the preview: another state, other source pictures, other clips. */
export type Changed = 'state' | 'framing' | 'clips';
