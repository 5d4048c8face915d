// How high lanes are: two closed ones and an opened one of six rows just fit at 1280 by 800.
export const CLOSED_PX = 36;
/** One row of controls in an opened lane. */
export const ROW_PX = 28;
