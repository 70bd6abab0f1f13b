'use client';

import { writeCount } from '@/core/values';
import type { Spread } from '@/core/api';
import { BarController, BarElement, CategoryScale, Chart, LinearScale, Tooltip } from 'chart.js';
import { Bar } from 'react-chartjs-2';

Chart.register(BarController, BarElement, CategoryScale, LinearScale, Tooltip);
Chart.defaults.font.family = "'Hanken Grotesk Variable', system-ui, sans-serif";
Chart.defaults.color = '#22302B';

const ROW = 24;

/** How changes are spread over records: a bar for each range of differences, or for each value that fields become. */
export function DistributionChart({
  spread: { of, bars, others },
  plural,
}: {
  spread: Spread;
  plural: string;
}) {
  const all = others > 0 ? [...bars, { label: 'other values', records: others }] : bars;
  const words = all.map(({ label, records }) => `${label}: ${writeCount(records)}`).join('; ');
  return (
    <div style={{ height: all.length * ROW + 44 }}>
      <Bar
        role="img"
        aria-label={`${of === 'differences' ? 'By how much it changes' : 'What it becomes'}, in ${plural}: ${words}`}
        data={{
          labels: all.map(({ label }) => label),
          datasets: [
            {
              ...{ label: plural, data: all.map(({ records }) => records), backgroundColor: '#B9502A' },
              ...{ barPercentage: 0.85, categoryPercentage: 0.9, minBarLength: 1 },
            },
          ],
        }}
        options={{
          ...{ indexAxis: 'y', animation: false, maintainAspectRatio: false },
          plugins: { legend: { display: false } },
          scales: {
            x: {
              title: { display: true, text: plural },
              beginAtZero: true,
              ticks: { precision: 0, maxTicksLimit: 6 },
            },
            y: { grid: { display: false }, ticks: { autoSkip: false } },
          },
        }}
      />
    </div>
  );
}
