import { type ReactNode } from 'react';

interface PageProps {
  readonly title: ReactNode;
  readonly sentence?: ReactNode;
  readonly meta?: ReactNode;
  readonly actions?: ReactNode;
  /** what is under it takes the room that there is and scrolls by itself, as a long table does */
  readonly fitted?: boolean;
  readonly children: ReactNode;
}

/** The frame of every page: name and number, the thing as one sentence, one main button at most, and the work under it. */
export function Page({ title, sentence, meta, actions, fitted = false, children }: PageProps) {
  return (
    <div className="flex min-h-0 flex-1 flex-col overflow-y-auto">
      <header className="flex items-start justify-between gap-6 px-7 pt-4.5 pb-3 max-sm:flex-col max-sm:gap-2 max-sm:px-4">
        <div className="min-w-0">
          <h1 className="text-[23px] leading-[1.22] [overflow-wrap:anywhere]">{title}</h1>
          {sentence && <div className="mt-1 max-w-[820px] text-[14px] leading-[1.4] [overflow-wrap:anywhere]">{sentence}</div>}
          {meta && <div className="quiet mt-1.5 text-[13px]">{meta}</div>}
        </div>
        {actions && <div className="flex flex-none flex-wrap gap-2">{actions}</div>}
      </header>
      <div className={`flex flex-1 flex-col px-7 max-sm:px-4 ${fitted ? 'min-h-0 pb-3' : 'pb-8'}`}>{children}</div>
    </div>
  );
}
