import { configureStore } from '@reduxjs/toolkit';
import { useDispatch, useSelector } from 'react-redux';
import { api } from './api';
import { liveReducer } from './live';
import { noticesReducer } from './notices';
import { traceReducer } from './trace';

export const makeStore = () =>
  configureStore({
    reducer: { [api.reducerPath]: api.reducer, notices: noticesReducer, trace: traceReducer, live: liveReducer },
    middleware: (defaults) => defaults({ serializableCheck: false }).concat(api.middleware),
  });

export type Store = ReturnType<typeof makeStore>;
export type State = ReturnType<Store['getState']>;
export const useAppDispatch = useDispatch.withTypes<Store['dispatch']>();
export const useAppSelector = useSelector.withTypes<State>();
