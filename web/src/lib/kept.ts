/** Things by name, of which those used last stay. */
export class Kept<T> {
  private readonly all = new Map<string, T>();
  constructor(private readonly most: number) {}

  get(name: string): T | undefined {
    const found = this.all.get(name);
    if (found !== undefined) this.put(name, found);
    return found;
  }

  put(name: string, thing: T): void {
    this.all.delete(name);
    this.all.set(name, thing);
    for (const first of this.all.keys()) {
      if (this.all.size <= this.most) return;
      this.all.delete(first);
    }
  }

  clear(): void {
    this.all.clear();
  }
}
