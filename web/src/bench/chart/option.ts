import type { ComposeOption } from 'echarts/core'
import type { BarSeriesOption, LineSeriesOption, PieSeriesOption } from 'echarts/charts'
import type { GridComponentOption, LegendComponentOption, TooltipComponentOption } from 'echarts/components'
import type { ChartSpec, Drawing } from '../../api/client'
import { coloursOf } from './colours'

export type Option = ComposeOption<
  | BarSeriesOption
  | LineSeriesOption
  | PieSeriesOption
  | GridComponentOption
  | LegendComponentOption
  | TooltipComponentOption
>

export interface Inks {
  ink: string
  mute: string
  rule: string
  sheet: string
  font: string
  dark: boolean
}

/** Marks of so many places still have room for their figures. */
const roomy = 14

/** How a drawing is drawn. The figures are the server's; nothing is worked out here but shares of what is shown. */
export function optionOf(drawing: Drawing, spec: ChartSpec, inks: Inks, width: number): Option {
  const narrow = width < 560
  const colours = coloursOf(spec.tint, drawing.series.length, inks.dark)
  const text = { color: inks.ink, fontFamily: inks.font, fontSize: 12 }
  const base: Option = {
    animation: false,
    color: colours,
    textStyle: text,
    tooltip: {
      trigger: 'item',
      confine: true,
      backgroundColor: inks.sheet,
      borderColor: inks.rule,
      textStyle: text,
      formatter: (p) => said(drawing, Array.isArray(p) ? p[0] : p),
    },
    legend:
      drawing.series.length > 1
        ? {
            type: 'scroll',
            ...(narrow
              ? { bottom: 0, left: 8, right: 8 }
              : { orient: 'vertical', right: 8, top: 12, bottom: 8, width: 190 }),
            textStyle: { ...text, width: 160, overflow: 'truncate' },
            itemWidth: 12,
            itemHeight: 12,
            icon: 'rect',
            selectedMode: false,
            pageIconColor: inks.ink,
            pageIconInactiveColor: inks.rule,
            pageTextStyle: { color: inks.mute },
          }
        : undefined,
  }
  return drawing.kind === 'shares' && drawing.series.length === 1
    ? { ...base, ...ring(drawing, inks, spec, narrow) }
    : { ...base, ...plotted(drawing, spec, inks, width) }
}

function plotted(drawing: Drawing, spec: ChartSpec, inks: Inks, width: number): Option {
  const narrow = width < 560
  const shares = drawing.kind === 'shares'
  const line = drawing.kind === 'lines' || drawing.kind === 'areas'
  const whole = drawing.kind === 'stacked' || drawing.kind === 'areas' || shares
  const sums = drawing.places.map((_, i) =>
    drawing.series.reduce((sum, s) => sum + Math.abs(s.marks[i]?.value ?? 0), 0),
  )
  const labelled = !!spec.labels || (drawing.series.length === 1 && drawing.places.length <= roomy)
  const most = Math.max(
    0,
    ...(whole ? sums : drawing.series.flatMap((s) => s.marks.map((m) => Math.abs(m.value ?? 0)))),
  )
  const each =
    (width - (drawing.series.length > 1 && !narrow ? 280 : 90)) /
    Math.max(1, Math.min(roomy, drawing.places.length))
  const labels = labelsOf(drawing.places, each)
  const axis = {
    axisLine: { lineStyle: { color: inks.ink } },
    axisTick: { show: false },
    axisLabel: {
      color: inks.mute,
      ...labels,
    },
  }
  return {
    grid: {
      left: 12,
      right: drawing.series.length > 1 && !narrow ? 216 : 24,
      top: 26,
      bottom: drawing.series.length > 1 && narrow ? 34 : 8,
      containLabel: true,
    },
    xAxis: { type: 'category', data: drawing.places, ...axis },
    yAxis: {
      type: 'value',
      splitLine: { lineStyle: { color: inks.rule } },
      max: shares ? 100 : undefined,
      axisLabel: {
        color: inks.mute,
        formatter: (v: number) =>
          short(v, most) +
          (shares || drawing.unit === 'percent' ? ' %' : drawing.unit === 'hours' ? ' h' : ''),
      },
    },
    series: drawing.series.map((s) => {
      const data = s.marks.map((m, i) =>
        m.value === undefined ? null : shares ? (sums[i] ? (100 * m.value) / sums[i] : 0) : m.value,
      )
      const label = {
        show: labelled,
        position: whole && drawing.series.length > 1 ? ('inside' as const) : ('top' as const),
        fontSize: 12,
        fontFamily: inks.font,
        color: whole && drawing.series.length > 1 ? undefined : inks.ink,
        formatter: (p: { dataIndex: number }) => s.marks[p.dataIndex]?.text ?? '',
      }
      const common = {
        name: s.label,
        data,
        label,
        labelLayout: { hideOverlap: true },
        emphasis: { disabled: true },
        cursor: 'pointer',
      }
      if (!line)
        return {
          ...common,
          type: 'bar' as const,
          stack: whole ? 'whole' : undefined,
          barMaxWidth: 64,
          barGap: '10%',
        }
      return {
        ...common,
        type: 'line' as const,
        stack: whole ? 'whole' : undefined,
        areaStyle: whole ? { opacity: 0.55 } : undefined,
        symbol: 'circle',
        symbolSize: 7,
        lineStyle: { width: 2 },
        triggerLineEvent: false,
      }
    }),
  }
}

/** Width of a letter of a label, on average, in CSS pixels. */
const letter = 7.5

/** How the labels of places stand that have so much room each: whole, aslant, or only some of them. */
function labelsOf(places: readonly string[], each: number) {
  const longest = letter * Math.max(0, ...places.map((p) => p.length))
  if (places.length > roomy) return { hideOverlap: true, interval: 'auto' as const }
  if (longest <= each - 6) return { interval: 0 }
  // A few words can be cut and still be told apart; less than that would leave nothing.
  if (each >= 90) return { interval: 0, overflow: 'truncate' as const, width: each - 8 }
  return { interval: 0, rotate: 40, overflow: 'truncate' as const, width: Math.min(longest, 130) }
}

/** The parts of one whole, as a ring. */
function ring(drawing: Drawing, inks: Inks, spec: ChartSpec, narrow: boolean): Option {
  const marks = drawing.series[0]?.marks ?? []
  return {
    color: coloursOf(spec.tint, marks.length, inks.dark),
    series: [
      {
        type: 'pie',
        radius: ['45%', '78%'],
        center: ['50%', '52%'],
        emphasis: { disabled: true },
        minAngle: 1,
        itemStyle: { borderColor: inks.sheet, borderWidth: 1.5 },
        label: {
          color: inks.ink,
          fontFamily: inks.font,
          formatter: narrow ? '{b}\n{d} %' : '{b}  {d} %',
          width: 170,
          overflow: 'truncate',
        },
        data: drawing.places.map((name, i) => ({ name, value: Math.max(0, marks[i]?.value ?? 0) })),
      },
    ],
  }
}

interface Pointed {
  seriesIndex?: number
  dataIndex?: number
  percent?: number
}

/** What is said of a mark: its groups and its figure as the ledger shows it. */
function said(drawing: Drawing, p: Pointed | undefined): string {
  const series = drawing.series[p?.seriesIndex ?? 0]
  const mark = series?.marks[p?.dataIndex ?? -1]
  if (!mark) return ''
  const escape = (s: string) => s.replace(/[&<>"]/g, (c) => `&#${c.charCodeAt(0)};`)
  const names = [
    drawing.places[p?.dataIndex ?? 0] ?? '',
    ...(drawing.series.length > 1 ? [series?.label ?? ''] : []),
  ]
  return `${names.map(escape).join(' · ')}<br><b>${escape(mark.text)}</b>${p?.percent === undefined ? '' : ` · ${p.percent} %`}`
}

/** A figure of an axis that reaches so far: 1,250,000 as 1.25M. */
function short(v: number, most: number): string {
  return new Intl.NumberFormat('en', {
    notation: most >= 10_000 ? 'compact' : 'standard',
    maximumFractionDigits: 2,
  })
    .format(v)
    .replace('-', '−')
}
