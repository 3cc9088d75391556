<script setup lang="ts">
import Button from "primevue/button";
import InputText from "primevue/inputtext";
import { reactive } from "vue";
import { api, type Mix, type Mixed } from "../api/client";
import { range, type Limited } from "../lib/limits";
import { typedNumber, wrongNumber } from "../lib/numbers";
import { failure, newest } from "../lib/requests";
import { s } from "../strings";

/** Calculators a crew reaches for. The core reckons; here is only what is typed and what came back. */
type Field = { id: string; label: string; value: string; number?: "one" | "many" };
type Form = { id: string; title: string; fields: Field[]; ask: (v: Record<string, string>) => Mix };
const m = s.truck.mix;
const list = (text: string | undefined) =>
  (text ?? "")
    .split(/[,;]/)
    .map((x) => x.trim())
    .filter(Boolean);
const num = (text: string | undefined) => typedNumber(text ?? "") ?? 0;
const field = (id: string, label: string, value: string): Field => ({ id, label, value });
/** A field that takes a number, or several with commas between them. */
const number = (id: string, label: string, value: string, many = false): Field => ({
  id,
  label,
  value,
  number: many ? "many" : "one",
});
/** What a field may be; a list of widths in stock has no range of its own. */
const rangeOf = (f: Form, x: Field) => (x.id === "stocked" ? null : (`${f.id}-${x.id}` as Limited));
/** What was typed where a number belongs and is none, or is outside its range. */
function notNumbers(f: Form) {
  const typed = (x: Field) => values[f.id]?.[x.id] ?? "";
  const parts = (x: Field) => (x.number === "many" ? list(typed(x)) : [typed(x)]);
  return f.fields.flatMap((x) => {
    const of = rangeOf(f, x);
    return x.number && of ? parts(x).flatMap((t) => wrongNumber(x.label, t, of, false) ?? []) : [];
  });
}
const forms: Form[] = [
  {
    id: "bead",
    title: m.bead,
    fields: [
      field("diameter", m.diameter, "3/8"),
      field("length", m.length, "0"),
      number("tube", m.tube, "10.1"),
      number("waste", m.waste, "10"),
    ],
    ask: (v) => ({
      ask: "bead",
      diameter: v.diameter ?? "",
      length: v.length ?? "",
      tube: num(v.tube),
      waste: num(v.waste),
    }),
  },
  {
    id: "coverage",
    title: m.coverage,
    fields: [
      number("ft2", m.ft2, "860"),
      number("mil", m.mil, "12"),
      number("loss", m.loss, "10"),
      number("rough", m.rough, "1"),
      number("pail", m.pail, "5"),
    ],
    ask: (v) => ({
      ask: "coverage",
      ft2: num(v.ft2),
      mil: num(v.mil),
      loss: num(v.loss),
      rough: num(v.rough),
      pail: num(v.pail),
    }),
  },
  {
    id: "tape",
    title: m.tape,
    fields: [
      field("trim", m.trim, "3 1/2"),
      field("margin", m.margin, "1 1/2"),
      field("on", m.onFrame, "1/4"),
      field("stocked", m.stocked, "4, 6, 9, 12"),
    ],
    ask: (v) => ({
      ask: "tape_width",
      trim: v.trim ?? "",
      margin: v.margin ?? "",
      on_frame: v.on ?? "",
      stocked: list(v.stocked),
    }),
  },
  {
    id: "fastener",
    title: m.fastener,
    fields: [
      field("layers", m.layers, "3/4, 1 1/2, 7/16"),
      field("into", m.into, "1 1/2"),
      field("step", m.step, "1/2"),
    ],
    ask: (v) => ({ ask: "fastener_length", layers: list(v.layers), into_stud: v.into ?? "", step: v.step ?? "" }),
  },
  {
    id: "left",
    title: m.left,
    fields: [
      number("done", m.done, "400"),
      number("todo", m.toDo, "200"),
      number("used", m.used, "4"),
      number("has", m.has, "1.5"),
      number("readings", m.readings, "14, 13, 15", true),
      number("least", m.least, "12"),
      number("most", m.most, "25"),
    ],
    ask: (v) => ({
      ask: "fluid_left",
      done: num(v.done),
      to_do: num(v.todo),
      used: num(v.used),
      left: num(v.has),
      readings: list(v.readings).map(num),
      asked: [num(v.least), num(v.most)],
    }),
  },
];
const values = reactive(
  Object.fromEntries(forms.map((f) => [f.id, Object.fromEntries(f.fields.map((x) => [x.id, x.value]))])),
) as Record<string, Record<string, string>>;
const answers = reactive<Record<string, Mixed | string>>({});
async function go(f: Form) {
  const bad = notNumbers(f);
  if (bad.length) {
    answers[f.id] = bad.join(" ");
    return;
  }
  try {
    const body = f.ask(values[f.id] ?? {});
    const data = await newest(`mix ${f.id}`, (signal) => api.POST("/api/mix", { body, signal }));
    if (data) answers[f.id] = data;
  } catch (e) {
    answers[f.id] = failure(e);
  }
}
function rangeTitle(f: Form, x: Field) {
  const of = rangeOf(f, x);
  return of ? range(of) : undefined;
}
const text = (id: string, x: string) => values[id]?.[x] ?? "";
function type(id: string, x: string, value: string | undefined) {
  const of = values[id];
  if (of) of[x] = value ?? "";
}
</script>

<template>
  <div class="forms" data-test="mix">
    <form v-for="f in forms" :key="f.id" :data-mix="f.id" @submit.prevent="go(f)">
      <h2>{{ f.title }}</h2>
      <label v-for="x in f.fields" :key="x.id"
        >{{ x.label }}
        <InputText
          :model-value="text(f.id, x.id)"
          size="small"
          :name="`${f.id}-${x.id}`"
          :title="rangeTitle(f, x)"
          @update:model-value="(v) => type(f.id, x.id, v)"
          @keydown.stop
        />
      </label>
      <Button type="submit" size="small" :label="m.go" />
      <div v-if="answers[f.id]" class="answer" role="status">
        <template v-if="typeof answers[f.id] === 'string'">{{ answers[f.id] }}</template>
        <template v-else>
          <b>{{ (answers[f.id] as Mixed).answer }}</b>
          <p v-for="w in (answers[f.id] as Mixed).working" :key="w" class="quiet">{{ w }}</p>
          <p v-if="(answers[f.id] as Mixed).remark">{{ (answers[f.id] as Mixed).remark }}</p>
        </template>
      </div>
    </form>
  </div>
</template>

<style scoped>
.forms {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(260px, 1fr));
  gap: 16px;
  margin-top: 12px;
}
form {
  display: flex;
  flex-direction: column;
  gap: 6px;
  padding: 12px;
  background: var(--sheet);
  border: 1px solid var(--line);
}
h2 {
  font-size: 1.05rem;
}
label {
  display: grid;
  grid-template-columns: 1fr 110px;
  align-items: center;
}
.answer {
  padding: 8px;
  border-left: 5px solid var(--ink);
}
.answer b {
  font-size: 1.15rem;
}
</style>
