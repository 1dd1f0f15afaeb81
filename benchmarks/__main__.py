"""All benchmarks: ``make bench``. Prints each figure beside what it should be."""

import sys
from pathlib import Path

from benchmarks import bench_screen, masks, speed


def line(what: str, value: float, unit: str, most: float) -> None:
    verdict = "ok" if value <= most else "TOO MUCH"
    print(f"  {what:58s} {value:8.2f} {unit:3s} (at most {most:g}) {verdict}", flush=True)


def main() -> None:
    only = set(sys.argv[1:])
    if not only or "speed" in only:
        print("Delivery of one frame")
        s = speed.measured()
        print(f"  {s['megapixels']:.0f} MP, {s['megabytes']:.1f} MB; decode + encode alone {s['floor_seconds']:.2f} s")
        print(f"  six masked steps, JPEG to JPEG, masks at hand: {s['seconds']:.2f} s")
        line("ratio to decode + encode by libjpeg-turbo", s["ratio"], "", 20)
        line("peak memory", s["peak_gigabytes"], "GB", 2)
        print("Finding on the same frame")
        line("everything, from the JPEG", s["find_seconds"], "s", 2.5)
        line("a second look, from what was kept", 1000 * s["again_seconds"], "ms", 30)
        for name, value in s["parts"].items():
            print(f"    {name:28s} {value:5.2f} s")
    if not only or "screen" in only:
        print("The Bench in the browser")
        homes = [Path(a) for a in only if a.startswith("/")]
        b = bench_screen.measured(homes[0] if homes else None)
        line("slider to key frame, eight steps", b["key_ms"], "ms", 80)
        line("slider to six witnesses, eight steps", b["witnesses_ms"], "ms", 400)
    if not only or "masks" in only:
        print("Masks on the demo shoot, against the known ones")
        masks.main(["--spoilt"])


if __name__ == "__main__":
    main()
