import { t } from '@lingui/core/macro';
import { parseDate } from '@internationalized/date';
import { ChevronLeft, ChevronRight } from 'lucide-react';
import { type RefObject } from 'react';
import {
  Button,
  Calendar,
  CalendarCell,
  CalendarGrid,
  CalendarGridBody,
  CalendarGridHeader,
  CalendarHeaderCell,
  Dialog,
  Heading,
  I18nProvider,
  Popover,
} from 'react-aria-components';
import { locale } from '../base/locale';
import { KeyLayer } from '../base/keys/useKey';

/** The calendar of a day's field: arrow keys go from day to day, Page Up and Page Down from month to month, Enter takes one. */
export function MonthOf({
  value,
  today,
  label,
  by,
  close,
  set,
}: {
  /** YYYY-MM-DD, as is today. */
  value: string;
  today: string;
  label: string;
  /** The field that it belongs to, which gets the focus back. */
  by: RefObject<HTMLElement | null>;
  close: () => void;
  set: (day: string) => void;
}) {
  return (
    <I18nProvider locale={locale}>
      <Popover
        triggerRef={by}
        isOpen
        onOpenChange={(open) => !open && close()}
        placement="bottom start"
        offset={4}
        className="rounded-box border border-line bg-card p-3 text-ink shadow-lg"
      >
        <Dialog aria-label={label} className="outline-none">
          <KeyLayer>
            <Calendar
              aria-label={label}
              autoFocus
              defaultValue={parseDate(value)}
              onChange={(day) => {
                set(day.toString());
                close();
              }}
            >
              <header className="mb-2 flex items-center">
                <Button slot="previous" className="btn btn-ghost btn-xs" aria-label={t`The month before`}>
                  <ChevronLeft size={14} aria-hidden />
                </Button>
                <Heading className="flex-1 text-center font-semibold" />
                <Button slot="next" className="btn btn-ghost btn-xs" aria-label={t`The month after`}>
                  <ChevronRight size={14} aria-hidden />
                </Button>
              </header>
              <CalendarGrid weekdayStyle="short">
                <CalendarGridHeader>
                  {(day) => <CalendarHeaderCell className="pb-1 font-normal text-mute">{day}</CalendarHeaderCell>}
                </CalendarGridHeader>
                <CalendarGridBody>
                  {(day) => <CalendarCell date={day} className="calendar-day" data-now={day.toString() === today} />}
                </CalendarGridBody>
              </CalendarGrid>
            </Calendar>
          </KeyLayer>
        </Dialog>
      </Popover>
    </I18nProvider>
  );
}
