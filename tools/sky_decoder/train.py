"""Fit the sky decoder: a small top-down network over the frozen backbone's stages.

Usage: python -m tools.sky_decoder.train VIEWS PHOTO_FOLDER RENDERS OUT.onnx [--onwards DECODER.onnx] [--check]
VIEWS is "all" and then, onwards from that, "rooms" for the decoder that sees the whole (sky_whole.onnx), "gaps" for
the one that looks closely; RENDERS holds the woods of ``tools.photos``. ``--onwards`` goes on in fewer rounds from a
decoder that has learnt.
Needs the lenskeep package, torch and onnx, none of which but the first Lens Keep needs at run time. A third of the
photographs is kept aside by a fixed rule (``samples.kept_aside``) and never fitted to; --check prints how the decoder
does on both sides, before any refinement of edges. Rectangles are in labels.json.
"""

import argparse
import csv
import json
import pickle
from multiprocessing import Pool
from pathlib import Path

import cv2
import numpy as np
import onnx
import torch
from onnx import numpy_helper
from torch import nn
from torch.nn.functional import binary_cross_entropy_with_logits, interpolate

from lenskeep.core.detect.sky import DECODED_STAGES, LONG_SIDES, decoder_inputs
from lenskeep.files.networks import backbone_network
from tools.sky_decoder.made_up_woods import made_wood, plates
from tools.sky_decoder.samples import framed, grounds_and_subjects, kept_aside, made_up, of_photograph, read

HERE = Path(__file__).parent
MADE_SCENES = {"gaps": 3000, "all": 3200, "rooms": 1200}
BATCH = 12
ROUNDS, RATE = 12, 2e-3
ONWARDS = (5, 6e-4)
"""Rounds and rate of a decoder that has learnt before."""
WOOD_VIEWS, LEAST_IN_VIEW, SURE = 12, 0.01, 0.9
WINDOW = 9  # of the deepest stage, 1/32 of the picture
WIDTHS = {1: 24, 2: 48, 3: 88, 4: 120, 5: 208, 6: 352}


def block(inputs: int, outputs: int) -> nn.Sequential:
    return nn.Sequential(nn.Conv2d(inputs, outputs, 3, padding=1, bias=False), nn.BatchNorm2d(outputs), nn.ReLU())


class Decoder(nn.Module):
    """Stages and the picture in, the logit of sky at half the network's input size out."""

    def __init__(self):
        super().__init__()
        self.norm = nn.ModuleDict({str(k): nn.BatchNorm2d(n, affine=False) for k, n in WIDTHS.items()})
        self.drop = nn.Dropout2d(0.25)
        self.whole = nn.Conv2d(560, 24, 1)
        self.deep = nn.Conv2d(560 + 1, 40, 1)
        self.at32 = block(64, 40)
        self.lift16, self.at16 = nn.Conv2d(208, 40, 1), block(80, 40)
        self.lift8, self.at8 = nn.Conv2d(48, 24, 1), block(64, 32)
        self.lift4, self.at4 = nn.Conv2d(24, 16, 1), block(48, 24)
        self.lift2, self.fine, self.at2 = nn.Conv2d(24, 12, 1), block(3, 8), block(20, 12)
        self.last = nn.Conv2d(12, 1, 1)

    def forward(self, picture, s1, s2, s3, s4, s5, s6):
        s1, s2, s3, s4, s5, s6 = (
            self.drop(self.norm[str(k)](s)) for k, s in zip(DECODED_STAGES, (s1, s2, s3, s4, s5, s6), strict=True)
        )
        deep = torch.cat([s5, s6], 1)
        ones = torch.ones_like(deep[:, :1])
        height = torch.cumsum(ones, 2) / ones.sum(2, keepdim=True) * 2 - 1
        whole = self.whole(deep.mean((2, 3), keepdim=True)) * ones
        x = self.at32(torch.cat([self.deep(torch.cat([deep, height], 1)), whole], 1))
        x = self.at16(torch.cat([up(x), self.lift16(torch.cat([s3, s4], 1))], 1))
        x = self.at8(torch.cat([up(x), self.lift8(s2)], 1))
        x = self.at4(torch.cat([up(x), self.lift4(s1)], 1))
        x = self.at2(torch.cat([up(self.lift2(x)), self.fine(picture)], 1))
        return self.last(x)


def up(x):
    return interpolate(x, scale_factor=2.0, mode="bilinear", align_corners=False)


def half(x: np.ndarray) -> np.ndarray:
    return cv2.resize(x, (x.shape[1] // 2, x.shape[0] // 2), interpolation=cv2.INTER_AREA)


_backbone = _made = None


def _ready(folder, rows, rectangles, renders, views):
    """Each process loads the backbone and what scenes are made of once."""
    global _backbone, _made
    cv2.setNumThreads(1)
    _backbone, _made = backbone_network(1), (views, *grounds_and_subjects(folder, rows, rectangles), plates(renders))


def _sample(picture, label):
    fed = decoder_inputs(np.ascontiguousarray(picture), max(picture.shape[:2]), _backbone)
    known = label[::2, ::2] if (label < 0).any() else half(np.ascontiguousarray(label))
    return [np.asarray(p, np.float16) for p in (*(x[0] for x in fed.values()), known[None])]


def _samples(job):
    if isinstance(job, int):
        return [_sample(*made_up(job, *_made))]
    return [_sample(*pair) for pair in of_photograph(*job)]


def gathered(folder, rows, rectangles, renders, views):
    """Samples: half-size picture, stages and label, in half precision to fit in memory."""
    samples = []
    work = [*((folder, row, rectangles) for row in rows), *range(MADE_SCENES[views])]
    with Pool(2, _ready, (folder, rows, rectangles, renders, views)) as pool:
        for found in pool.imap(_samples, work, 4):
            samples += found
    return samples


def cropped(parts, random):
    """A random window of the parts of a sample, all cut at the same place on the deepest stage's grid."""
    h, w = parts[-2].shape[1:]
    y, x = random.integers(0, h - WINDOW + 1), random.integers(0, w - WINDOW + 1)
    out = []
    for part in parts:
        f = part.shape[1] // h
        out.append(part[:, y * f : (y + WINDOW) * f, x * f : (x + WINDOW) * f])
    return out


def loss_of(logit, label):
    """Cross entropy with soft shares, heavier at edges, and one minus the soft overlap of each picture with sky."""
    known = (label >= 0).float()
    target = label.clamp(min=0)
    edge = 1 + 2 * ((target > 0.02) & (target < 0.98)).float()
    cross = binary_cross_entropy_with_logits(logit, target, reduction="none") * known * edge
    cross = cross.sum((1, 2, 3)) / (known * edge).sum((1, 2, 3)).clamp(min=1)
    p = torch.sigmoid(logit) * known
    both = (p * target).sum((1, 2, 3))
    either = (p + target * known - p * target).sum((1, 2, 3))
    has_sky = (target.sum((1, 2, 3)) > 0).float()
    return (cross + 0.5 * has_sky * (1 - both / either.clamp(min=1))).mean()


def learnt(decoder: Path) -> Decoder:
    """A decoder as it ships. Its batch normalisations are folded into the convolutions before them, so here they only
    add what is left of them.
    """
    net = Decoder()
    numbers = {one.name: numpy_helper.to_array(one) for one in onnx.load(decoder).graph.initializer}
    folded = sorted(
        (int(name.split("_")[1]), value) for name, value in numbers.items() if name.startswith("onnx::Conv")
    )
    state = {name[4:]: torch.from_numpy(value.copy()) for name, value in numbers.items() if name.startswith("net.")}
    for place, name in enumerate(("at32", "at16", "at8", "at4", "fine", "at2")):
        weight, bias = (torch.from_numpy(value.copy()) for _, value in folded[2 * place :][:2])
        state |= {f"{name}.0.weight": weight, f"{name}.1.bias": bias, f"{name}.1.weight": torch.ones(len(bias)),
                  f"{name}.1.running_mean": torch.zeros(len(bias)),
                  f"{name}.1.running_var": torch.full((len(bias),), 1 - net.at2[1].eps)}  # fmt: skip
    left, more = net.load_state_dict(state, strict=False)
    assert not more and all(name.endswith("num_batches_tracked") for name in left)
    return net


def at_rest(net: Decoder) -> None:
    """Keep what normalisations have measured."""
    for part in net.modules():
        if isinstance(part, nn.BatchNorm2d):
            part.eval()


def fit(samples, before: Path | None) -> Decoder:
    """Train on windows, so that batches are of one shape and every round sees other parts."""
    torch.manual_seed(3)
    random = np.random.default_rng(3)
    net, (rounds, rate) = (learnt(before), ONWARDS) if before else (Decoder(), (ROUNDS, RATE))
    batches = len(samples) // BATCH
    optimiser = torch.optim.AdamW(net.parameters(), lr=rate, weight_decay=1e-2)
    schedule = torch.optim.lr_scheduler.OneCycleLR(optimiser, rate, total_steps=batches * rounds)
    for turn in range(rounds):
        net.train()
        if before:
            at_rest(net)
        order, total = random.permutation(len(samples)), 0.0
        for k in range(batches):
            columns = zip(*(cropped(samples[i], random) for i in order[k * BATCH : (k + 1) * BATCH]), strict=True)
            picture, *stages, label = (torch.from_numpy(np.stack(c)).float() for c in columns)
            loss = loss_of(net(picture, *stages), label)
            optimiser.zero_grad()
            loss.backward()
            optimiser.step()
            schedule.step()
            total += float(loss.detach())
        print(f"round {turn + 1}/{rounds}: loss {total / batches:.4f}", flush=True)
    return net.eval()


def export(net: Decoder, out: Path, backbone) -> None:
    """One ONNX file whose inputs are the half-size picture and the stages, and whose output is p, 0…1."""
    fed = decoder_inputs(np.zeros((352, 512, 3), np.uint8), 512, backbone)
    axes = {name: {2: f"h_{name}", 3: f"w_{name}"} for name in [*fed, "p"]}
    torch.onnx.export(
        Sky(net),
        tuple(torch.from_numpy(x) for x in fed.values()),
        str(out),
        dynamo=False,
        opset_version=17,
        input_names=list(fed),
        output_names=["p"],
        dynamic_axes=axes,
    )


class Sky(nn.Module):
    """The decoder with its probability, as it is shipped."""

    def __init__(self, net: Decoder):
        super().__init__()
        self.net = net

    def forward(self, *x):
        return torch.sigmoid(self.net(*x))


def check(folder, rows, rectangles, backbone, net, words):
    """Print IoU on labelled areas and the share of false sky, before any refinement of edges."""
    found, false = {}, {}
    for row in rows:
        image, label, _ = read(folder, row, rectangles)
        fed = decoder_inputs(np.rint(image * 255).astype(np.uint8), LONG_SIDES[0], backbone)
        with torch.no_grad():
            logit = net(*(torch.from_numpy(x) for x in fed.values()))
        p = cv2.resize(logit[0, 0].numpy(), label.shape[::-1], interpolation=cv2.INTER_LINEAR) > 0
        counted = label >= 0
        if (label == 1).any():
            found[row["file"]] = (p & (label == 1)).sum() / ((p | (label == 1)) & counted).sum()
        elif counted.any():
            false[row["file"]] = p.mean()
    print(words, "IoU", {k: round(float(v), 3) for k, v in found.items()})
    print(
        words,
        f"mean IoU {np.mean(list(found.values())):.3f}; false sky mean {np.mean(list(false.values())):.4f}",
        {k: round(float(v), 3) for k, v in false.items() if v > 0.003},
    )


def check_woods(renders, backbone, net) -> None:
    """Print IoU on views of the woods that are kept aside, and what share of their sky is surely so."""
    scores, sure = [], []
    for plate in plates(renders, aside=True):
        for seed in range(WOOD_VIEWS):
            random = np.random.default_rng([6, seed])
            image, share = framed(*made_wood(plate, None, random), random, 0.75)
            fed = decoder_inputs(np.rint(image * 255).astype(np.uint8), LONG_SIDES[0], backbone)
            with torch.no_grad():
                p = torch.sigmoid(net(*(torch.from_numpy(x) for x in fed.values())))[0, 0].numpy()
            p = cv2.resize(p, share.shape[::-1], interpolation=cv2.INTER_LINEAR)
            sky = share > 0.5
            if sky.mean() > LEAST_IN_VIEW:
                scores.append((sky & (p > 0.5)).sum() / (sky | (p > 0.5)).sum())
                sure.append((p[share > SURE] > SURE).mean())
    print(f"woods kept aside: IoU {np.mean(scores):.3f} of {len(scores)} views, surely sky {np.mean(sure):.3f}")


def main() -> None:
    parser = argparse.ArgumentParser(prog="python -m tools.sky_decoder.train", description=__doc__)
    parser.add_argument("views", choices=tuple(MADE_SCENES))
    for name in ("folder", "renders", "out"):
        parser.add_argument(name, type=Path)
    parser.add_argument("--onwards", type=Path, help="a decoder to go on from")
    parser.add_argument("--check", action="store_true")
    words = parser.parse_args()
    folder, out = words.folder, words.out
    with (folder / "index.tsv").open() as handle:
        rows = list(csv.DictReader(handle, delimiter="\t"))
    rectangles = json.loads((HERE / "labels.json").read_text())
    aside = kept_aside(rows)
    fitted = [r for r in rows if Path(r["file"]).stem not in aside]
    backbone = backbone_network()
    kept = out.with_suffix(".samples")  # making them takes longer than fitting
    if not kept.exists():
        kept.write_bytes(pickle.dumps(gathered(folder, fitted, rectangles, words.renders, words.views)))
    samples = pickle.loads(kept.read_bytes())
    print(f"{len(samples)} samples", flush=True)
    net = fit(samples, words.onwards)
    torch.save(net.state_dict(), out.with_suffix(".pt"))
    export(net, out, backbone)
    net.eval()  # the export leaves it as its wrapper was, in training
    if words.check:
        check(folder, fitted, rectangles, backbone, net, "fitted:")
        check(folder, [r for r in rows if Path(r["file"]).stem in aside], rectangles, backbone, net, "kept aside:")
        check_woods(words.renders, backbone, net)


if __name__ == "__main__":
    main()
