/** How a teacher leaves, where the server asks for a passphrase. Set once, before the first screen. */
import { create } from 'zustand';

export const useDoor = create<{ readonly signOut?: () => Promise<void> }>()(() => ({}));
