// Whether keys of one character do something by themselves (WCAG 2.1.4).
import { Remembered } from './remembered.svelte';

export const characterKeys = new Remembered<boolean>('idle-shimmer-character-keys', true);
