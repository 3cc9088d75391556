<script setup lang="ts">
import { computed, ref } from "vue";
import type { OrderLine, Truck } from "../api/client";
import { s } from "../strings";
import FoldLine from "../fields/FoldLine.vue";
import ProductForm from "./ProductForm.vue";

/** What to buy, supplier by supplier; each line opens to its working, its prices and what is on the truck. */
const props = defineProps<{ truck: Truck }>();
const suppliers = computed(() => [...new Set(props.truck.order.lines.map((l) => l.supplier))]);
const open = ref<string | null>(null);
function outcome(l: OrderLine) {
  if (!l.outcome) return "";
  if (l.outcome.is === "proved") return s.cut.proved;
  return l.outcome.is === "within" ? s.cut.within(l.outcome.rolls) : "";
}
</script>

<template>
  <div data-test="order">
    <p class="quiet">
      <b v-if="truck.order.total">{{ s.truck.total(truck.order.total) }}</b>
      <template v-else>{{ s.truck.noPrices }}</template>
      <template v-if="truck.order.total && truck.order.unpriced">
        · {{ s.truck.unpriced(truck.order.unpriced) }}</template
      >
    </p>
    <section v-for="who in suppliers" :key="who">
      <h2>{{ who }}</h2>
      <FoldLine
        v-for="l in truck.order.lines.filter((x) => x.supplier === who)"
        :key="l.product"
        :open="open === l.product"
        :data-line="l.product"
        @toggle="open = open === l.product ? null : l.product"
      >
        <template #head>
          <span class="name"
            >{{ l.called }}<small v-if="l.called !== l.product">{{ l.product }}</small></span
          >
          <span class="buy">
            <span v-for="z in l.sizes" :key="z.size">
              <b>{{ z.buy }} ×</b> {{ z.size }}<small v-if="z.held"> · {{ s.truck.held(z.held) }}</small>
              <small v-if="z.price"> · {{ z.price }}</small>
            </span>
            <span v-if="!l.sizes.length" class="remark">{{ l.remark }}</span>
          </span>
        </template>
        <div data-test="line-more">
          <dl>
            <dt>{{ s.truck.used }}</dt>
            <dd>{{ l.net }}</dd>
            <template v-if="l.handling"
              ><dt>{{ s.truck.handling }}</dt>
              <dd>{{ l.handling }}</dd></template
            >
            <template v-if="l.bought_ft2"
              ><dt>{{ s.truck.areas }}</dt>
              <dd>{{ s.truck.coveredOf(l.covered_ft2.toFixed(0), l.bought_ft2.toFixed(0)) }}</dd></template
            >
            <template v-if="l.left"
              ><dt>{{ s.truck.left }}</dt>
              <dd>{{ l.left }}</dd></template
            >
          </dl>
          <p v-if="l.remark && l.sizes.length" class="remark">{{ l.remark }}</p>
          <h3>{{ s.truck.working }}</h3>
          <p v-for="w in l.working" :key="w" class="working">{{ w }}</p>
          <p v-if="outcome(l)" class="working">{{ outcome(l) }}</p>
          <details>
            <summary>{{ s.truck.what }} ({{ l.uses.length }})</summary>
            <table>
              <tbody>
                <tr v-for="(u, i) in l.uses" :key="i">
                  <td>{{ u.what }}</td>
                  <td>{{ u.opening || u.wall }}</td>
                  <td class="quiet">{{ u.working }}</td>
                </tr>
              </tbody>
            </table>
          </details>
          <ProductForm :product="l.product" :truck="truck" />
        </div>
      </FoldLine>
    </section>
  </div>
</template>

<style scoped>
section {
  margin-top: 18px;
}
h2 {
  margin-bottom: 4px;
  font-size: 1.1rem;
  text-transform: capitalize;
  border-bottom: 1.5px solid var(--ink);
}
h3 {
  margin-top: 8px;
  font-size: 0.92rem;
}
.name,
.buy {
  display: flex;
  flex-direction: column;
}
small {
  color: var(--ink-soft);
}
dl {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 2px 12px;
  margin: 0;
}
dt {
  color: var(--ink-soft);
}
dd {
  margin: 0;
}
.working,
td {
  font-size: 0.88rem;
}
table {
  width: 100%;
  border-collapse: collapse;
}
td {
  padding: 3px 8px 3px 0;
  vertical-align: top;
  border-bottom: 1px solid var(--line);
}
.remark {
  padding: 4px 8px;
  border-left: 4px solid var(--ink-soft);
}
</style>
