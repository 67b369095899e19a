import { createSlice, type PayloadAction } from '@reduxjs/toolkit';
import { type FeedEvent } from '@eager-sieve/contracts';

/** What flowed since this page was opened, for the figures in the stack. */
const live = createSlice({
  name: 'live',
  initialState: { connected: false, counts: {} as Record<string, number>, beats: 0 },
  reducers: {
    connected: (state, { payload }: PayloadAction<boolean>) => {
      state.connected = payload;
    },
    moved: (state, { payload }: PayloadAction<FeedEvent>) => {
      for (const [name, n] of Object.entries(payload.counts)) state.counts[name] = (state.counts[name] ?? 0) + n;
      state.beats += 1;
    },
  },
});
export const { connected, moved } = live.actions;
export const liveReducer = live.reducer;
