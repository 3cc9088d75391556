<script setup lang="ts">
import Button from "primevue/button";
import InputText from "primevue/inputtext";
import { computed, ref } from "vue";
import type { Held, OrderLine, OwnProduct, SoldSize, Truck } from "../api/client";
import { useJob } from "../stores/job";
import { s } from "../strings";

/** What to buy, supplier by supplier; each line opens to its working, its prices and what is on the truck. */
const props = defineProps<{ truck: Truck }>();
const emit = defineEmits<{ changed: [] }>();
const job = useJob();
const suppliers = computed(() => [...new Set(props.truck.order.lines.map((l) => l.supplier))]);
const kit = computed(() => job.state?.job.kit);
const open = ref<string | null>(null);
const name = ref("");
const prices = ref<string[]>([]);
const stock = ref<string[]>([]);

/** How a product is sold here: the crew's own sizes, or the generic ones. */
function sizesOf(product: string): SoldSize[] {
  const own = kit.value?.products?.[product]?.sizes;
  return own?.length ? own : (props.truck.products.find((p) => p.name === product)?.sizes ?? []);
}
const key = (z: SoldSize) => JSON.stringify([z.width, z.length, z.fl_oz, z.gallons, z.count].map((x) => x ?? null));
function sizeWords(z: SoldSize) {
  const plain = (l: string) => {
    const inches = Number(l.replace(/ in$/, ""));
    return inches >= 120 && inches % 12 === 0 ? `${inches / 12}'` : l.replace(/ in$/, '"');
  };
  const parts = [z.width && plain(z.width), z.length && plain(z.length)].filter(Boolean);
  if (z.fl_oz) parts.push(`${z.fl_oz} fl oz`);
  if (z.gallons) parts.push(`${z.gallons} gal`);
  if (z.count) parts.push(`${z.count}`);
  return parts.join(" × ");
}
function show(line: OrderLine) {
  open.value = open.value === line.product ? null : line.product;
  const held = kit.value?.stock ?? [];
  name.value = kit.value?.products?.[line.product]?.name ?? "";
  prices.value = sizesOf(line.product).map((z) => z.price ?? "");
  stock.value = sizesOf(line.product).map((z) => {
    const n = held.filter((h) => h.product === line.product && key(h.size) === key(z)).reduce((a, h) => a + h.count, 0);
    return n ? `${n}` : "";
  });
}
async function save(line: OrderLine) {
  const sizes = sizesOf(line.product);
  const own: OwnProduct = {
    name: name.value.trim(),
    sizes: sizes.map((z, i) => ({ ...z, price: prices.value[i]?.trim() || null })),
  };
  if (!(await job.change({ edit: "set_product", product: line.product, own }, line.product))) return;
  const others = (kit.value?.stock ?? []).filter(
    (h) => h.product !== line.product || !sizes.some((z) => key(z) === key(h.size)),
  );
  const mine = sizes
    .map((z, i): Held => ({ product: line.product, size: { ...z, price: null }, count: Number(stock.value[i]) || 0 }))
    .filter((h) => h.count > 0);
  await job.change({ edit: "set_stock", stock: [...others, ...mine] }, line.product);
  emit("changed");
}
async function reset(line: OrderLine) {
  if (await job.change({ edit: "set_product", product: line.product, own: null }, line.product)) {
    open.value = null;
    emit("changed");
  }
}
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
      <div v-for="l in truck.order.lines.filter((x) => x.supplier === who)" :key="l.product" class="line">
        <button class="head" :aria-expanded="open === l.product" :data-line="l.product" @click="show(l)">
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
        </button>
        <div v-if="open === l.product" class="more" data-test="line-more">
          <dl>
            <dt>{{ s.truck.used }}</dt>
            <dd>{{ l.net }}</dd>
            <template v-if="l.handling"
              ><dt>{{ s.truck.handling }}</dt>
              <dd>{{ l.handling }}</dd></template
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
          <form v-if="sizesOf(l.product).length" class="kit" @submit.prevent="save(l)">
            <label
              >{{ s.truck.name }}
              <InputText v-model="name" size="small" data-test="own-name" :placeholder="l.product" @keydown.stop />
            </label>
            <template v-for="(z, i) in sizesOf(l.product)" :key="key(z)">
              <span class="size">{{ sizeWords(z) }}</span>
              <InputText
                v-model="prices[i]"
                size="small"
                inputmode="decimal"
                :placeholder="s.truck.price('').replace(/, $/, '')"
                :aria-label="s.truck.price(sizeWords(z))"
                :data-test="`price-${i}`"
                @keydown.stop
              />
              <InputText
                v-model="stock[i]"
                size="small"
                inputmode="numeric"
                :placeholder="s.truck.stock('').replace(/, $/, '')"
                :aria-label="s.truck.stock(sizeWords(z))"
                :data-test="`stock-${i}`"
                @keydown.stop
              />
            </template>
            <span class="row">
              <Button type="submit" size="small" severity="secondary" :label="s.truck.save" data-test="save-kit" />
              <Button v-if="kit?.products?.[l.product]" size="small" text :label="s.truck.reset" @click="reset(l)" />
            </span>
          </form>
        </div>
      </div>
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
.line {
  background: var(--sheet);
  border-bottom: 1px solid var(--line);
}
.head {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1.2fr);
  gap: 12px;
  width: 100%;
  min-height: 44px;
  padding: 8px 10px;
  font: inherit;
  color: inherit;
  text-align: left;
  cursor: pointer;
  background: none;
  border: 0;
}
.name,
.buy {
  display: flex;
  flex-direction: column;
}
small {
  color: var(--ink-soft);
}
.more {
  padding: 4px 10px 12px;
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
.more td {
  font-size: 0.88rem;
}
.more table {
  width: 100%;
  border-collapse: collapse;
}
.more td {
  padding: 3px 8px 3px 0;
  vertical-align: top;
  border-bottom: 1px solid var(--line);
}
.remark {
  padding: 4px 8px;
  border-left: 4px solid var(--ink-soft);
}
.kit {
  display: grid;
  grid-template-columns: minmax(100px, 1fr) minmax(90px, 140px) minmax(90px, 140px);
  gap: 6px 10px;
  align-items: center;
  margin-top: 10px;
}
.kit label,
.kit .row {
  grid-column: 1 / -1;
}
.kit label :deep(input) {
  width: 100%;
}
</style>
