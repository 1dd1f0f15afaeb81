"""All benchmarks: ``make bench``. Prints each figure beside what it should be."""

import sys
from pathlib import Path

from benchmarks import (
    bench_screen,
    brush,
    clean,
    close_view,
    cluster,
    crowd,
    even,
    four_clients,
    guards,
    hostile,
    kills,
    layers,
    masks,
    memory,
    photographs,
    scale,
    speed,
    whole,
)


def line(what: str, value: float, unit: str, limit: float, at_least: bool = False) -> None:
    good = value >= limit if at_least else value <= limit
    verdict = "ok" if good else "TOO LITTLE" if at_least else "TOO MUCH"
    print(f"  {what:58s} {value:8.2f} {unit:3s} (at {'least' if at_least else 'most'} {limit:g}) {verdict}", flush=True)


def main() -> None:
    if sys.argv[1:2] == ["kills"]:  # long ones, only when asked for
        sys.exit(kills.main(sys.argv[2:]) > 0)
    if sys.argv[1:2] == ["clients"]:
        sys.exit(four_clients.main(sys.argv[2:]) > 0)
    if sys.argv[1:2] == ["crowd"]:
        sys.exit(crowd.main(sys.argv[2:]) > 0)
    if sys.argv[1:2] == ["hostile"]:
        sys.exit(hostile.main(sys.argv[2:]) > 0)
    if sys.argv[1:2] == ["cluster"]:
        sys.exit(cluster.main(sys.argv[2:]) > 0)
    if sys.argv[1:2] == ["scale"]:
        sys.exit(scale.main(sys.argv[2:]) > 0)
    if sys.argv[1:2] == ["even"]:
        sys.exit(even.main(sys.argv[2:]) > 0)
    if sys.argv[1:2] == ["clean"]:
        clean.main(sys.argv[2:])
        return
    if sys.argv[1:3] == ["masks", "--photographs"]:
        sys.exit(photographs.main(Path(sys.argv[3]), "--write" in sys.argv) > 0)
    if sys.argv[1:2] == ["whole"]:
        sys.exit(whole.main(sys.argv[2:]) > 0)
    only = set(sys.argv[1:])
    if not only or "speed" in only:
        s = speed.measured()
        six, twelve, larger, batch, plain, found = (s[k] for k in ("six", "twelve", "larger", "batch", "plain", "find"))
        print("Delivery of one frame of 24 megapixels, JPEG to JPEG, masks at hand")
        print(
            f"  decode + encode alone by libjpeg-turbo {six['floor_seconds']:.2f} s; six steps {six['seconds']:.2f} s"
        )
        line("six masked steps, as a ratio to that", six["ratio"], "", 8)
        line("peak memory", six["peak_gigabytes"], "GB", 1.2)
        line("twelve steps, as a ratio", twelve["ratio"], "", 14)
        line("45 megapixels, six steps: peak memory", larger["peak_gigabytes"], "GB", 1.2)
        line("the same six steps written plainly, times ours", plain["seconds"] / six["seconds"], "", 5, at_least=True)
        line("ten frames on two cores, times as fast as on one", batch["gain"], "", 1.7, at_least=True)
        for name in ("tiff16", "openraster"):
            own = s[name]
            print(f"  the same as {name}, six steps: {own['seconds']:.1f} s, {own['megabytes']:.0f} MB")
            line(f"{name}: peak memory", own["peak_gigabytes"], "GB", 1.2)
        print("Finding on the same frame")
        line("everything, from the JPEG", found["find_seconds"], "s", 2.5)
        line("a second look, from what was kept", 1000 * found["again_seconds"], "ms", 30)
        for name, value in found["parts"].items():
            print(f"    {name:28s} {value:5.2f} s")
    if not only or "guards" in only:
        g = guards.measured()
        print(f"Guards after applying: {1000 * g['guards']:.0f} ms of {1000 * g['seconds']:.0f} ms a frame")
        line("guards, as a share of applying without them", 100 * g["share"], "%", 12)
    if not only or "memory" in only:
        print("300 pictures of the Bench over 60 frames, 20 at a time")
        m = memory.measured()
        line("server's memory at most", m["most_gigabytes"], "GB", 1.2)
        line("before, at rest", m["before_gigabytes"], "GB", 0.5)
        line("a minute after", m["after_gigabytes"], "GB", 0.6)
        print(f"  a picture, 20 asked for at a time: {m['median_seconds']:.2f} s (median)")
    if not only or "screen" in only:
        print("The Bench in the browser")
        homes = [Path(a) for a in only if a.startswith("/")]
        b = bench_screen.measured(homes[0] if homes else None)
        line("slider to key frame, eight steps", b["key_ms"], "ms", 60)
        line("slider to six witnesses, eight steps", b["witnesses_ms"], "ms", 300)
        line("repairing brush under the pointer", brush.measured(), "ms", 50)
    if not only or "layers" in only:
        print("Looks chosen by pictures, drawn back and lined up, in the browser")
        homes = [Path(a) for a in only if a.startswith("/")]
        chosen = layers.measured(homes[0] if homes else None)
        line("total strength to key frame, eight steps", chosen["strength_ms"], "ms", 60)
        line("first picture of a choice", chosen["first_ms"], "ms", 400)
        line("twenty pictures of choices", chosen["twenty_ms"], "ms", 2000)
        line("a line-up of 8 × 6, full", chosen["line_up_s"], "s", 6)
    if not only or "close" in only:
        print("Looking closely at 24 megapixels, eight steps, in the browser")
        near = close_view.measured()
        line("a cut of about 1280 × 600 true after moving", near["move"], "ms", 300)
        line("slider to the cut", near["slider"], "ms", 150)
        line("a step's effect under the brush", near["brush"], "ms", 50)
        line("server's memory, three frames of 45 megapixels opened in turn", near["gigabytes"], "GB", 0.9)
    if not only or "masks" in only:
        print("Masks on the demo, against the known ones")
        masks.main(["--spoilt"])
    if not only:
        print("Clean-up, on known truth")
        clean.main([])


if __name__ == "__main__":
    main()
