import { createSlice, type PayloadAction } from '@reduxjs/toolkit';

export interface Notice {
  readonly id: number;
  readonly kind: 'done' | 'wrong';
  readonly text: string;
  /** undoes it, while the notice is there */
  readonly undo?: (() => unknown) | undefined;
}

/** Short words about what was just done, at the foot of the page. A library for them would write style sheets at run time, which the security policy does not take. */
const notices = createSlice({
  name: 'notices',
  initialState: { next: 1, shown: [] as Notice[] },
  reducers: {
    told: (state, { payload }: PayloadAction<Omit<Notice, 'id'>>) => {
      state.shown.push({ id: state.next, ...payload });
      state.next += 1;
      if (state.shown.length > 3) state.shown.shift();
    },
    dismissed: (state, { payload }: PayloadAction<number>) => {
      state.shown = state.shown.filter((notice) => notice.id !== payload);
    },
  },
});
export const { told, dismissed } = notices.actions;
export const noticesReducer = notices.reducer;
