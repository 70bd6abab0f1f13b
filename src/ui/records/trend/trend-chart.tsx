'use client';

import { itemAt, writeDigits } from '@/core/values';
import type { Field } from '@/core/model';
import { Chart, Legend, LinearScale, LineElement, PointElement, Tooltip } from 'chart.js';
import { Line } from 'react-chartjs-2';
import { type Point, placeName } from './trend-points';

Chart.register(LinearScale, LineElement, PointElement, Tooltip, Legend);
Chart.defaults.font.family = "'Hanken Grotesk Variable', system-ui, sans-serif";
Chart.defaults.color = '#22302B';

/** Lines are told apart by the form of their points and their dashes too, never by colour alone. */
const STYLES = [
  { color: '#1F5C4D', point: 'circle', dash: [] },
  { color: '#22302B', point: 'rect', dash: [6, 3] },
  { color: '#5B6770', point: 'triangle', dash: [2, 3] },
  { color: '#4d7569', point: 'rectRot', dash: [8, 3, 2, 3] },
] as const;

const day = (at: number): string => new Date(at).toISOString().slice(0, 10);

export interface TrendChartProps {
  readonly lines: readonly { readonly field: Field; readonly points: readonly Point[] }[];
}

/** Values over time, a line for each field. The table under it says the same in words. */
export function TrendChart({ lines }: TrendChartProps) {
  const [first] = lines;
  const ofPlaces = first?.field.type.kind === 'choice' || first?.field.type.kind === 'yesNo';
  return (
    <div style={{ height: 300 }}>
      <Line
        role="img"
        aria-label={`${lines.map(({ field }) => field.name).join(', ')} over time`}
        data={{
          datasets: lines.map(({ field, points }, at) => {
            const style = itemAt(STYLES, at % STYLES.length);
            return {
              ...{
                label: field.name,
                data: [...points],
                borderColor: style.color,
                backgroundColor: style.color,
              },
              ...{ borderDash: [...style.dash], pointStyle: style.point, pointRadius: 4, borderWidth: 2 },
              stepped: ofPlaces ? 'before' : false,
            };
          }),
        }}
        options={{
          ...{ animation: false, maintainAspectRatio: false, parsing: false },
          scales: {
            x: { type: 'linear', ticks: { callback: (value) => day(Number(value)), maxTicksLimit: 8 } },
            y: {
              ticks: {
                ...(ofPlaces ? { stepSize: 1 } : {}),
                callback: (value) =>
                  (first && placeName(first.field, Number(value))) ?? shortNumber(Number(value)),
              },
            },
          },
          plugins: {
            legend: { labels: { usePointStyle: true } },
            tooltip: {
              callbacks: {
                title: ([item]) => (item ? day(Number(item.parsed.x)) : ''),
                label: ({ dataset, parsed, datasetIndex }) => {
                  const { field } = itemAt(lines, datasetIndex);
                  const height = Number(parsed.y);
                  return `${dataset.label}: ${placeName(field, height) ?? shortNumber(height)}`;
                },
              },
            },
          },
        }}
      />
    </div>
  );
}

/** A height of the chart, to three places. */
const shortNumber = (number: number): string => writeDigits(String(Math.round(number * 1_000) / 1_000));
