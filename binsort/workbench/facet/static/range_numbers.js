// The numbers of a listing, held to count any range exactly while a cut moves. Numbers are kept as they are written ("12.5", or a
// fraction as "1/3"); where two are the same to a float they are compared as whole numbers.
const rangeNumbers = (() => {
  const float = (text) => {
    const [above, below] = text.split("/");
    return below ? Number(above) / Number(below) : Number(text);
  };
  // A number as two whole ones.
  const parts = (text) => {
    if (text.includes("/")) return text.split("/").map(BigInt);
    const [whole, decimals = ""] = text.split(".");
    return [BigInt(whole + decimals), 10n ** BigInt(decimals.length)];
  };
  function compare(one, other) {
    const difference = float(one) - float(other);
    if (difference || one === other) return difference;
    const [a, b] = parts(one);
    const [c, d] = parts(other);
    const left = a * d, right = c * b;
    return left < right ? -1 : left > right ? 1 : 0;
  }

  class Line {
    constructor(data) {
      this.numbers = data.numbers;
      this.floats = Float64Array.from(data.numbers, float);
      this.starts = Int32Array.from(data.starts);
      this.entries = this.starts[this.starts.length - 1] ?? 0;
      this.before = new Int32Array(this.entries).fill(-1);
      data.repeats.forEach((entry, place) => { this.before[entry] = data.before[place]; });
      this.single = data.repeats.length === 0;
    }

    // How many numbers are below one, or up to it.
    rank(text, inclusive = false) {
      let low = 0, high = this.numbers.length;
      const value = float(text);
      while (low < high) {
        const middle = (low + high) >> 1;
        const order = this.floats[middle] - value || compare(this.numbers[middle], text);
        if (order < 0 || (inclusive && order === 0)) low = middle + 1;
        else high = middle;
      }
      return low;
    }

    // How many products have a number of this slice, each once.
    count(start, stop) {
      const first = this.starts[start], last = this.starts[stop];
      if (this.single) return Math.max(0, last - first);
      let count = 0;
      for (let entry = first; entry < last; entry++) if (this.before[entry] < first) count++;
      return count;
    }

    // How many products are in one slice at least.
    countAny(slices) {
      if (slices.length === 1) return this.count(...slices[0]);
      const sorted = slices.map(([start, stop]) => [this.starts[start], this.starts[stop]]).sort((a, b) => a[0] - b[0]);
      const joined = [];
      for (const [first, last] of sorted) {
        const top = joined[joined.length - 1];
        if (top && first <= top[1]) top[1] = Math.max(top[1], last);
        else joined.push([first, last]);
      }
      let count = 0;
      const inside = (entry) => joined.some(([first, last]) => entry >= first && entry < last);
      for (const [first, last] of joined) {
        for (let entry = first; entry < last; entry++) {
          let earlier = this.before[entry];
          while (earlier >= 0 && !inside(earlier)) earlier = this.before[earlier];
          if (earlier < 0) count++;
        }
      }
      return count;
    }
  }

  class Axis {
    constructor({ low, high, scale }) { Object.assign(this, { low, high, scale }); }
    share(value) {
      const span = this.high - this.low;
      const part = span > 0 ? Math.min(1, Math.max(0, (value - this.low) / span)) : 0;
      if (this.scale === "log") return part > 0 && part < 1 ? Math.log(value / this.low) / Math.log(this.high / this.low) : part;
      return this.scale === "roots" ? Math.sqrt(part) : part;
    }
    value(share) {
      if (this.scale === "log") return this.low * Math.exp(share * Math.log(this.high / this.low));
      return this.low + (this.high - this.low) * (this.scale === "roots" ? share * share : share);
    }
  }

  // A nice number about as large: 1, 2 or 5 times a power of ten.
  function nice(size) {
    if (!(size > 0)) return 1;
    const power = Math.floor(Math.log10(size));
    const part = size / 10 ** power;
    return (part < 1.5 ? 1 : part < 3 ? 2 : part < 7 ? 5 : 10) * 10 ** power;
  }

  // The plain text of a multiple of a round step near a value.
  function rounded(value, step) {
    const places = Math.max(0, Math.min(9, -Math.floor(Math.log10(step) + 1e-9)));
    return String(Number((Math.round(value / step) * step).toFixed(places)));
  }

  return { Line, Axis, compare, float, nice, rounded };
})();
