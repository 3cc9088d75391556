<script setup lang="ts">
import Button from "primevue/button";
import InputText from "primevue/inputtext";
import { computed, ref, watch } from "vue";
import type { Attribute, Held, OwnProduct, SoldSize, Truck } from "../api/client";
import { longest, range, type Limited } from "../lib/limits";
import { typedNumber, wrongNumber } from "../lib/numbers";
import { sizeKey, sizeWords } from "../lib/sold";
import { useJob } from "../stores/job";
import { s } from "../strings";

/** The crew's own product where the plan says a generic one: name, sizes with prices and what is on the truck, and what is known of it. */
const props = defineProps<{ product: string; truck: Truck }>();
const job = useJob();
const kit = computed(() => job.state?.job.kit);
const here = computed(() => props.truck.products.find((p) => p.name === props.product));
const own = computed(() => kit.value?.products?.[props.product]);

type Row = Record<"width" | "length" | "fl_oz" | "gallons" | "count" | "price" | "held", string>;
type Measure = "width" | "length" | "fl_oz" | "gallons" | "count";
const name = ref("");
const rows = ref<Row[]>([]);
const attributes = ref<Record<string, string>>({});
/** Whole feet from ten on read as feet, as they stand on the box. */
function plain(l: string | null | undefined) {
  const bare = (l ?? "").replace(/ in$/, "");
  const inches = Number(bare);
  return inches >= 120 && inches % 12 === 0 ? `${inches / 12}'` : bare;
}
const text = (n: number | null | undefined) => (n ? `${n}` : "");
function held(z: SoldSize) {
  const same = (h: Held) => h.product === props.product && sizeKey(h.size) === sizeKey(z);
  return (kit.value?.stock ?? []).filter(same).reduce((a, h) => a + h.count, 0);
}
const row = (z: SoldSize): Row => ({
  width: plain(z.width),
  length: plain(z.length),
  fl_oz: text(z.fl_oz),
  gallons: text(z.gallons),
  count: text(z.count),
  price: z.price ?? "",
  held: text(held(z)),
});
watch(
  () => [props.product, props.truck] as const,
  () => {
    name.value = own.value?.name ?? "";
    const sold = here.value?.sizes ?? [];
    // Leftovers on the truck are of lengths that nobody sells.
    const left = (kit.value?.stock ?? []).filter(
      (h) => h.product === props.product && !sold.some((z) => sizeKey(z) === sizeKey(h.size)),
    );
    rows.value = [...sold, ...left.map((h) => h.size)].map(row);
    attributes.value = { ...props.truck.known[props.product] };
  },
  { immediate: true },
);
/** Measures that any size of it has, or all of them where it has none yet. */
const measures = computed<Measure[]>(() => {
  const all: Measure[] = ["width", "length", "fl_oz", "gallons", "count"];
  const used = all.filter((m) => rows.value.some((r) => r[m]));
  return used.length ? used : all;
});
const blank: Row = { width: "", length: "", fl_oz: "", gallons: "", count: "", price: "", held: "" };
const add = () => (rows.value = [...rows.value, { ...blank }]);
const drop = (i: number) => (rows.value = rows.value.filter((_, n) => n !== i));
/** What each measure may be. */
const ranges: Record<Measure, Limited> = {
  width: "size_width",
  length: "size_length",
  fl_oz: "size_fl_oz",
  gallons: "size_gallons",
  count: "size_count",
};
const number = (t: string) => typedNumber(t) ?? null;
/** What was typed where a number belongs and is none, or is outside its range: it is told, and nothing is saved. */
const wrong = ref("");
function notNumbers(list: Row[]) {
  const amounts = (["fl_oz", "gallons", "count"] as const).map((m) => [m, s.truck.measures[m], ranges[m]] as const);
  const fields = [...amounts, ["held", s.truck.stockOne, "held"] as const];
  return list.flatMap((r) => fields.flatMap(([m, label, of]) => wrongNumber(label, r[m], of, true) ?? []));
}
const sizeOf = (r: Row): SoldSize => ({
  width: r.width.trim() || null,
  length: r.length.trim() || null,
  fl_oz: number(r.fl_oz),
  gallons: number(r.gallons),
  count: number(r.count),
  price: r.price.trim() || null,
});
const says = (r: Row) => measures.value.some((m) => r[m].trim());
async function save() {
  const known = props.truck.known[props.product] ?? {};
  const changed = Object.entries(attributes.value).filter(([id, t]) => t.trim() !== (known[id] ?? ""));
  const filled = rows.value.filter(says);
  wrong.value = notNumbers(filled).join(" ");
  if (wrong.value) return;
  // What is only on the truck is no size that is sold.
  const sold = filled.filter((r) => r.price.trim() || !r.held.trim() || isSold(r));
  const made: OwnProduct = {
    of: own.value?.of ?? "",
    name: name.value.trim(),
    sizes: sold.map(sizeOf),
    attributes: { ...own.value?.attributes, ...Object.fromEntries(changed.map(([id, t]) => [id, t.trim()])) },
  };
  const stock = filled
    .map((r): Held => ({ product: props.product, size: { ...sizeOf(r), price: null }, count: number(r.held) ?? 0 }))
    .filter((h) => h.count !== 0);
  await job.change({ edit: "set_product", product: props.product, own: made, stock }, props.product);
}
const isSold = (r: Row) => (here.value?.sizes ?? []).some((z) => sizeKey(row(z)) === sizeKey(r));
async function reset() {
  await job.change({ edit: "set_product", product: props.product, own: null }, props.product);
}
/** The name of one more product of this kind. */
const another = ref("");
async function addAnother() {
  const name = another.value.trim();
  if (!name) return;
  const made: OwnProduct = { of: props.product, name: "", sizes: [], attributes: {} };
  if (await job.change({ edit: "set_product", product: name, own: made }, name)) another.value = "";
}
/** The range that is believed of an attribute. */
const believed = (a: Attribute) =>
  a.least == null || a.most == null ? undefined : s.sizes.range(`${a.least}`, `${a.most}`);
const label = (a: Attribute) => (a.unit ? `${a.name}, ${a.unit}` : a.name);
</script>

<template>
  <form data-test="product-form" @submit.prevent="save">
    <fieldset class="product" :disabled="!job.mayChange">
      <label class="name"
        >{{ s.truck.name }}
        <InputText
          v-model="name"
          size="small"
          data-test="own-name"
          :placeholder="product"
          :maxlength="longest('name')"
          @keydown.stop
        />
      </label>
      <div v-for="(r, i) in rows" :key="i" class="size" :data-size="i">
        <label v-for="m in measures" :key="m"
          >{{ s.truck.measures[m] }}
          <InputText v-model="r[m]" size="small" :data-test="`${m}-${i}`" :title="range(ranges[m])" @keydown.stop />
        </label>
        <label
          >{{ s.truck.priceOne }}
          <InputText v-model="r.price" size="small" inputmode="decimal" :data-test="`price-${i}`" @keydown.stop />
        </label>
        <label
          >{{ s.truck.stockOne }}
          <InputText v-model="r.held" size="small" inputmode="numeric" :data-test="`stock-${i}`" @keydown.stop />
        </label>
        <Button
          size="small"
          text
          severity="secondary"
          :label="s.truck.dropSize"
          :aria-label="s.truck.dropThis(sizeWords(sizeOf(r)))"
          @click="drop(i)"
        />
      </div>
      <Button size="small" text :label="s.truck.addSize" data-test="add-size" @click="add" />
      <details>
        <summary data-test="attributes">{{ s.truck.attributes }}</summary>
        <div class="known">
          <label v-for="a in truck.attributes" :key="a.id"
            >{{ label(a) }}
            <InputText
              v-model="attributes[a.id]"
              :title="believed(a)"
              size="small"
              :placeholder="s.truck.unknown"
              :data-test="`attribute-${a.id}`"
              @keydown.stop
            />
          </label>
        </div>
      </details>
      <p v-if="wrong" role="alert" data-test="not-a-number">{{ wrong }}</p>
      <p class="row">
        <Button type="submit" size="small" :label="s.truck.save" data-test="save-kit" />
        <Button v-if="own" size="small" text :label="own.of ? s.truck.takeOut : s.truck.reset" @click="reset" />
      </p>
      <p v-if="!own?.of" class="row another">
        <label
          >{{ s.truck.another }}
          <InputText
            v-model="another"
            size="small"
            data-test="another-name"
            :placeholder="s.truck.anotherName"
            :maxlength="longest('name')"
            @keydown.stop
            @keydown.enter.prevent="addAnother"
          />
        </label>
        <Button
          size="small"
          text
          :disabled="!another.trim()"
          :label="s.truck.add"
          data-test="another"
          @click="addAnother"
        />
      </p>
    </fieldset>
  </form>
</template>

<style scoped>
.product {
  padding: 0;
  margin: 0;
  border: 0;
  display: flex;
  flex-direction: column;
  gap: 6px;
  align-items: flex-start;
  margin-top: 10px;
}
.name,
.known label {
  display: flex;
  flex-direction: column;
  width: 100%;
  font-size: 0.82rem;
}
.size {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 10px;
  align-items: flex-end;
}
.size label {
  display: flex;
  flex-direction: column;
  width: 96px;
  font-size: 0.82rem;
}
.size :deep(input) {
  width: 100%;
}
details {
  width: 100%;
}
summary {
  min-height: 32px;
  cursor: pointer;
}
.known {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(220px, 1fr));
  gap: 6px 14px;
}
.row {
  display: flex;
  gap: 8px;
}
.another {
  align-items: flex-end;
}
.another label {
  display: grid;
  font-size: 0.82rem;
}
</style>
