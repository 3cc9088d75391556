import { useElementSize } from "@vueuse/core";
import { select } from "d3-selection";
import { zoom as d3zoom, zoomIdentity, type D3ZoomEvent, type ZoomBehavior } from "d3-zoom";
import { computed, onBeforeUnmount, shallowRef, watch, type Ref } from "vue";
import { extent, laidToShow, seenIn, type Box, type Laid } from "../lib/viewport";

/** What has its own answer to a pointer: it does not move the drawing. */
const THEIR_OWN = ".grip, .flag, .course-grip";

/** Pan, pinch and wheel on a drawing. `box` is what is seen of it, in its own units. */
export function usePanZoom(svg: Ref<SVGSVGElement | null>, whole: Ref<Box>) {
  const { width, height } = useElementSize(svg);
  const element = computed(() => ({ width: width.value || 700, height: height.value || 620 }));
  const laid = shallowRef<Laid>(laidToShow(whole.value, element.value));
  const box = computed(() => seenIn(laid.value, element.value));
  let behaviour: ZoomBehavior<SVGSVGElement, unknown> | null = null;

  /** Shows a part of the drawing whole. */
  function show(part: Box) {
    const to = laidToShow(part, element.value);
    if (!svg.value || !behaviour) return void (laid.value = to);
    select(svg.value).call(behaviour.transform, zoomIdentity.translate(to.x, to.y).scale(to.k));
  }
  /** Closer where the factor is below 1. */
  function zoom(factor: number) {
    if (svg.value && behaviour) select(svg.value).call(behaviour.scaleBy, 1 / factor);
  }
  function bounds() {
    const [w, e] = [whole.value, element.value];
    behaviour?.extent([
      [0, 0],
      [e.width, e.height],
    ]);
    behaviour?.scaleExtent(extent(w, e));
    // The middle of what is seen stays on the drawing.
    const [mx, my] = [box.value.width / 2, box.value.height / 2];
    behaviour?.translateExtent([
      [w.x - mx, w.y - my],
      [w.x + w.width + mx, w.y + w.height + my],
    ]);
  }

  watch(svg, (el, before) => {
    if (before) select(before).on(".zoom", null);
    if (!el) return;
    behaviour = d3zoom<SVGSVGElement, unknown>()
      .filter((e: Event) => e.type === "wheel" || !(e.target instanceof Element && e.target.closest(THEIR_OWN)))
      .on("zoom", (e: D3ZoomEvent<SVGSVGElement, unknown>) => {
        laid.value = e.transform;
        bounds();
      });
    bounds();
    select(el).call(behaviour).on("dblclick.zoom", null);
    show(box.value);
  });
  // What was seen stays seen where the element takes another size.
  let seen: Box | null = null;
  watch(box, (now) => (seen = now), { flush: "post" });
  watch(element, () => {
    const before = seen;
    bounds();
    if (before) show(before);
  });
  watch(whole, bounds);
  onBeforeUnmount(() => svg.value && select(svg.value).on(".zoom", null));
  return { box, element, show, zoom };
}
