<script setup lang="ts">
import { BarChart } from 'echarts/charts'
import { AriaComponent, GridComponent, LegendComponent, TooltipComponent } from 'echarts/components'
import { use } from 'echarts/core'
import { CanvasRenderer } from 'echarts/renderers'
import { computed } from 'vue'
import VChart from 'vue-echarts'

import { colours, OUTCOMES } from './colours'

use([BarChart, GridComponent, LegendComponent, TooltipComponent, AriaComponent, CanvasRenderer])

/** How many rows ended how, as bars: one for each name. Patterns tell outcomes apart without colour. */
const props = defineProps<{ bars: { name: string; counts: Record<string, number> }[]; label: string }>()
const there = computed(() => OUTCOMES.filter(({ name }) => props.bars.some((bar) => bar.counts[name])))
const option = computed(() => {
  const of = colours.value
  const text = { color: of('--soft'), fontFamily: 'Figtree Variable, sans-serif', fontSize: 12 }
  return {
    animation: false,
    aria: { enabled: true, label: { description: props.label } },
    color: there.value.map((one) => of(one.colour)),
    grid: { left: 44, right: 8, top: 30, bottom: 26 },
    legend: { top: 0, left: 0, textStyle: text, itemWidth: 18, itemHeight: 12 },
    tooltip: { trigger: 'axis', axisPointer: { type: 'shadow' } },
    xAxis: {
      type: 'category',
      data: props.bars.map((bar) => bar.name),
      axisLabel: text,
      axisLine: { lineStyle: { color: of('--line') } },
      axisTick: { show: false },
    },
    yAxis: {
      type: 'value',
      minInterval: 1,
      axisLabel: text,
      splitLine: { lineStyle: { color: of('--line') } },
    },
    series: there.value.map(({ name, decal }) => ({
      name,
      type: 'bar',
      stack: 'all',
      barMaxWidth: 34,
      itemStyle: { decal },
      data: props.bars.map((bar) => bar.counts[name] ?? 0),
    })),
  }
})
</script>

<template>
  <div class="h-56">
    <VChart :option="option" autoresize role="img" :aria-label="label" />
  </div>
</template>
