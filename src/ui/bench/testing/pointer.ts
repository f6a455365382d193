/** What jsdom lacks for drags: pointer events, boxes with a size, and capture. */
class PointerOfMouse extends MouseEvent {
  readonly pointerId: number;
  constructor(type: string, init: PointerEventInit = {}) {
    super(type, init);
    this.pointerId = init.pointerId ?? 0;
  }
}

/** From now on every element has that box, and can capture the pointer. */
export function withPointer(box: Pick<DOMRect, 'left' | 'top' | 'width' | 'height'>): void {
  Object.assign(window, { PointerEvent: PointerOfMouse });
  const captured = new WeakMap<Element, number>();
  Element.prototype.getBoundingClientRect = () =>
    ({ ...box, right: box.left + box.width, bottom: box.top + box.height }) as DOMRect;
  Element.prototype.setPointerCapture = function (id) {
    captured.set(this, id);
  };
  Element.prototype.hasPointerCapture = function (id) {
    return captured.get(this) === id;
  };
}
