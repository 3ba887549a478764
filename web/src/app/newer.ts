/** Whether a newer build of the pages is here, and how to take it. */
import { create } from 'zustand';

export const useNewer = create<{ readonly takeOver?: () => void }>()(() => ({}));
