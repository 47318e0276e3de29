import { scaleLinear, scaleSymlog } from "d3-scale";
import { memo, type PointerEvent, useMemo, useRef } from "react";
import type { Schemas } from "../../../api/client";
import { type Limits, toQuarter } from "../../../domain/bench";
import { bits } from "../../../domain/format";
import { PowerLines } from "../PowerLines";

type CurveData = Schemas["CurveOut"];

const WIDTH = 640;
const HEIGHT = 190;
const EDGE = { left: 46, right: 10, top: 26, bottom: 30 };
const STEP = 0.25;

interface Props {
  curve: CurveData;
  limits: Limits;
  /** While a limit follows the hand. */
  onMove: (limits: Limits) => void;
  /** When it is let go. */
  onSet: (limits: Limits) => void;
}

/** The span of scores that is worth drawing: all where pairs are, and the limits with some air. */
function spanOf(curve: CurveData): [number, number] {
  const filled = curve.free.flatMap((value, bin) => (value + (curve.capped[bin] ?? 0) > 0 ? [bin] : []));
  const low = curve.low + (filled[0] ?? 0) / curve.per_bit;
  const high = curve.low + ((filled.at(-1) ?? curve.free.length - 1) + 1) / curve.per_bit;
  return [Math.min(Math.floor(low), -10), Math.max(Math.ceil(high), 10)];
}

/** Pairs by score with the two limits, which are moved by hand or by arrow keys. */
export function Curve({ curve, limits, onMove, onSet }: Props) {
  const drawing = useRef<SVGSVGElement>(null);
  const held = useRef<keyof Limits | null>(null);
  const [low, high] = useMemo(() => spanOf(curve), [curve]);
  const x = useMemo(() => scaleLinear([low, high], [EDGE.left, WIDTH - EDGE.right]), [low, high]);
  const moved = (which: keyof Limits, to: number): Limits => {
    const value = Math.max(low, Math.min(high, toQuarter(to)));
    return which === "same"
      ? { same: value, unsure: Math.min(limits.unsure, value) }
      : { unsure: value, same: Math.max(limits.same, value) };
  };
  const scoreAt = (event: PointerEvent) => {
    const box = drawing.current?.getBoundingClientRect();
    return box ? x.invert(((event.clientX - box.left) / box.width) * WIDTH) : 0;
  };
  const handles = [
    { which: "unsure", label: "in doubt from", anchor: "end", shift: -5 },
    { which: "same", label: "same from", anchor: "start", shift: 5 },
  ] as const;
  return (
    <svg
      ref={drawing}
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      className="w-full touch-none select-none"
      role="group"
      aria-label="Candidate pairs by score in bits, with the two limits"
      onPointerMove={(event) => held.current && onMove(moved(held.current, scoreAt(event)))}
      onPointerUp={(event) => {
        if (held.current) onSet(moved(held.current, scoreAt(event)));
        held.current = null;
      }}
    >
      <Bands x={x} limits={limits} low={low} high={high} />
      <Bars curve={curve} low={low} high={high} />
      {handles.map(({ which, label, anchor, shift }) => (
        <g
          key={which}
          role="slider"
          tabIndex={0}
          aria-label={`Limit: ${label}`}
          aria-valuemin={low}
          aria-valuemax={high}
          aria-valuenow={limits[which]}
          aria-valuetext={`${bits(limits[which])} bits`}
          className="group cursor-ew-resize outline-none"
          transform={`translate(${x(limits[which])} 0)`}
          onPointerDown={(event) => {
            held.current = which;
            drawing.current?.setPointerCapture?.(event.pointerId);
          }}
          onKeyDown={(event) => {
            const step = { ArrowLeft: -STEP, ArrowRight: STEP, PageDown: -1, PageUp: 1 }[event.key];
            if (step === undefined) return;
            event.preventDefault();
            onSet(moved(which, limits[which] + step));
          }}
        >
          <rect x={-7} y={EDGE.top - 12} width={14} height={HEIGHT - EDGE.bottom - EDGE.top + 12} fill="transparent" />
          <line y1={EDGE.top - 10} y2={HEIGHT - EDGE.bottom} stroke="var(--ink)" strokeWidth="1.5" />
          <path
            d={`M-6 ${EDGE.top - 11}h12l-6 9z`}
            className="fill-ink group-focus-visible:fill-plum group-focus-visible:stroke-plum group-focus-visible:[stroke-width:3px]"
          />
          <text x={shift} y={EDGE.top - 13} textAnchor={anchor} fontSize="11.5" fill="var(--ink)">
            {label} {limits[which]}
          </text>
        </g>
      ))}
      <text x={WIDTH - EDGE.right} y={HEIGHT - 3} textAnchor="end" fontSize="11" fill="var(--soft)">
        score in bits; height: pairs, logarithmic
      </text>
      <Legend />
    </svg>
  );
}

/** What the two colours of bars are. */
function Legend() {
  const entries = [
    { fill: "var(--plum)", says: "the limits decide" },
    { fill: "var(--line-strong)", says: "at most in doubt, by a condition" },
  ];
  return (
    <g fontSize="11" fill="var(--soft)">
      {entries.map(({ fill, says }, place) => (
        <g key={says} transform={`translate(${EDGE.left + place * 120} ${HEIGHT - 3})`}>
          <rect y={-8} width={9} height={9} fill={fill} />
          <text x={13}>{says}</text>
        </g>
      ))}
    </g>
  );
}

/** Behind the bars, what the limits make of them. */
function Bands({ x, limits, low, high }: { x: (bits: number) => number; limits: Limits; low: number; high: number }) {
  const bands = [
    { name: "different", from: low, to: limits.unsure, fill: "transparent" },
    { name: "in doubt", from: limits.unsure, to: limits.same, fill: "var(--sunk)" },
    { name: "same", from: limits.same, to: high, fill: "var(--plum-wash)" },
  ];
  return (
    <g>
      {bands.map(({ name, from, to, fill }) => (
        <rect
          key={name}
          x={x(from)}
          y={EDGE.top}
          width={Math.max(x(to) - x(from), 0)}
          height={HEIGHT - EDGE.top - EDGE.bottom}
          fill={fill}
        />
      ))}
    </g>
  );
}

/** The bars themselves, which stay while a limit moves. */
const Bars = memo(function Bars({ curve, low, high }: { curve: CurveData; low: number; high: number }) {
  const x = scaleLinear([low, high], [EDGE.left, WIDTH - EDGE.right]);
  const most = Math.max(...curve.free, ...curve.capped, 10);
  const y = scaleSymlog([0, most], [HEIGHT - EDGE.bottom, EDGE.top]);
  const path = (values: readonly number[], under: readonly number[] = []) =>
    values
      .map((value, bin) => {
        if (value <= 0) return "";
        const from = x(curve.low + bin / curve.per_bit);
        const base = under[bin] ?? 0;
        const width = Math.max(x(curve.low + (bin + 1) / curve.per_bit) - from - 0.4, 0.6);
        return `M${from.toFixed(1)} ${y(base).toFixed(1)}V${y(base + value).toFixed(1)}h${width.toFixed(1)}V${y(base).toFixed(1)}z`;
      })
      .join("");
  return (
    <g>
      <PowerLines most={most} y={y} left={EDGE.left} right={WIDTH - EDGE.right} />
      <path d={path(curve.free)} fill="var(--plum)" />
      <path d={path(curve.capped, curve.free)} fill="var(--line-strong)">
        <title>at most in doubt, by a condition</title>
      </path>
      <line
        x1={EDGE.left}
        x2={WIDTH - EDGE.right}
        y1={HEIGHT - EDGE.bottom}
        y2={HEIGHT - EDGE.bottom}
        stroke="var(--line-strong)"
      />
      {x.ticks(12).map((tick) => (
        <text key={tick} x={x(tick)} y={HEIGHT - EDGE.bottom + 13} textAnchor="middle" fontSize="10" fill="var(--soft)">
          {tick}
        </text>
      ))}
    </g>
  );
});
