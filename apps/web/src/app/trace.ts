import { createSlice, type PayloadAction } from '@reduxjs/toolkit';

export interface TraceSubject {
  /** the id of the contact or the company whose fact it is */
  readonly whose: { readonly contact: string } | { readonly company: string };
  readonly of: 'tag' | 'band' | 'membership' | 'field' | 'consent' | 'stage' | 'owner';
  readonly key: string;
}

/** Which fact the trace drawer explains, if it is open. */
const trace = createSlice({
  name: 'trace',
  initialState: { subject: null as TraceSubject | null },
  reducers: {
    asked: (state, { payload }: PayloadAction<TraceSubject>) => {
      state.subject = payload;
    },
    closed: (state) => {
      state.subject = null;
    },
  },
});
export const traceAsked = trace.actions.asked;
export const traceClosed = trace.actions.closed;
export const traceReducer = trace.reducer;
