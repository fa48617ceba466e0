"use client";
import { bisectCenter } from "d3-array";
import { useRouter } from "next/navigation";
import { useMemo, useRef, useState, type KeyboardEvent } from "react";
import { formatNumber } from "@/core/format/numbers";
import { countKinds, type Mark } from "@/core/schedule/thread";
import { moment } from "../basic/format";
import { PageLink } from "../basic/page-link";
import { ChartTools } from "../charts/chart-tools";
import { useWidth } from "../charts/use-width";
import { FIRST_WIDTH, threadAxis, WIDEST_THREAD } from "./thread-axis";
import { MARKS, ThreadMark } from "./thread-marks";

interface Props {
  readonly title: string;
  /** Ends of the time that is shown, in milliseconds since 1970. */
  readonly from: number;
  readonly until: number;
  readonly marks: readonly Mark[];
}

const [HEIGHT, BASE, TOP] = [40, 34, 4];
/** The smallest stroke, in pixels. */
const LOWEST = 5;

const describe = ({ at, kind, rows, times }: Mark): string =>
  [
    moment(new Date(at)),
    times > 1 ? `${MARKS[kind].says}, ${times} times together` : MARKS[kind].says,
    ...(rows > 0 ? [`${formatNumber(rows)} rows`] : []),
  ].join(" · ");

const summarise = (marks: readonly Mark[]): string =>
  countKinds(marks)
    .map(([kind, count]) => `${count} ${MARKS[kind].says}`)
    .join(", ") || "no runs yet";

/** A schedule as a thread over time: what it did at its times. Pointer and arrow keys read it; a click or Enter opens the run. */
export function ScheduleThread({ title, from, until, marks }: Props) {
  const drawing = useRef<SVGSVGElement>(null);
  const router = useRouter();
  const [at, setAt] = useState<number>();
  const [table, setTable] = useState(false);
  const [room, width] = useWidth<HTMLDivElement>(WIDEST_THREAD, FIRST_WIDTH);
  const axis = useMemo(() => threadAxis(from, until, width), [from, until, width]);
  const most = Math.max(1, ...marks.map(({ rows }) => rows));
  const read = at === undefined ? undefined : marks[at];
  const open = (): void => {
    if (read?.run) router.push(`/runs/${read.run}`);
  };
  const onKeyDown = (event: KeyboardEvent): void => {
    const last = marks.length - 1;
    const moves: Readonly<Record<string, number>> = {
      ArrowRight: Math.min(last, (at ?? -1) + 1),
      ArrowLeft: Math.max(0, (at ?? marks.length) - 1),
      Home: 0,
      End: last,
    };
    const to = moves[event.key];
    if (event.key === "Enter") open();
    if (to === undefined) return;
    event.preventDefault();
    setAt(to);
  };
  return (
    <>
      <div className="flex w-0 min-w-full items-start">
        <div
          ref={room}
          {...(marks.length > 0
            ? {
                role: "slider",
                tabIndex: 0,
                "aria-label": `Last 30 days of ${title}; Enter opens the run`,
                "aria-valuemin": 0,
                "aria-valuemax": marks.length - 1,
                "aria-valuenow": at ?? 0,
                "aria-valuetext": read ? describe(read) : summarise(marks),
              }
            : {})}
          className={`min-w-0 flex-1 ${read?.run ? "cursor-pointer" : ""}`}
          onKeyDown={onKeyDown}
          onClick={open}
          onPointerMove={(event) => {
            const left = event.currentTarget.getBoundingClientRect().left;
            const places = marks.map((mark) => mark.at);
            if (marks.length > 0) setAt(bisectCenter(places, axis.valueAt(event.clientX - left)));
          }}
          onPointerLeave={() => setAt(undefined)}
          onBlur={() => setAt(undefined)}
        >
          <svg
            ref={drawing}
            width={width}
            height={HEIGHT}
            role="img"
            aria-label={`${title}: ${summarise(marks)}`}
            className="block"
          >
            <line x2={width} y1={BASE} y2={BASE} stroke="var(--rule)" />
            {marks.map((mark) => (
              <ThreadMark
                key={mark.at}
                mark={mark}
                x={axis.place(mark.at)}
                base={BASE}
                top={BASE - LOWEST - (BASE - LOWEST - TOP) * (mark.rows / most)}
              />
            ))}
            {read && <circle cx={axis.place(read.at)} cy={BASE} r="5.5" fill="none" stroke="var(--ink)" />}
          </svg>
          <span className="block text-caption text-faded">{read ? describe(read) : summarise(marks)}</span>
        </div>
        <ChartTools title={`${title}, last 30 days`} drawing={drawing} table={table} onTable={setTable} />
      </div>
      {table && <ThreadTable marks={marks} />}
    </>
  );
}

function ThreadTable({ marks }: { readonly marks: readonly Mark[] }) {
  return (
    <table className="mt-1 text-caption">
      <thead>
        <tr>
          <th>Time</th>
          <th>Status</th>
          <th className="number">Rows</th>
        </tr>
      </thead>
      <tbody>
        {marks.toReversed().map(({ at, kind, rows, run }) => (
          <tr key={at}>
            <td className="figure">{moment(new Date(at))}</td>
            <td>{run ? <PageLink href={`/runs/${run}`}>{MARKS[kind].says}</PageLink> : MARKS[kind].says}</td>
            <td className="number">{formatNumber(rows)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
