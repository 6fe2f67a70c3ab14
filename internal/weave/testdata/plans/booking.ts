enum Deck { Upper, Lower }
export function berth(deck: Deck, wet?: boolean): string {
  const kind = deck === Deck.Upper && !wet ? "dry" : "wet";
  return kind!;
}
abstract class Berth {
  constructor(private readonly n: number) {}
  abstract hold(): void;
  free(): this is Berth { return this.n > 3; }
}
