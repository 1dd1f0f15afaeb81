"""Fit the ground covers' head: one linear map per stage of the frozen backbone, added up over the stages.

Usage: python -m tools.covers.train PHOTO_FOLDER OUT.npz
Needs torch and the lenskeep package. Labels are rectangles (labels.json) on the photographs the sky decoder learns
from and on four made-up ones in frames/ (an early demo); the same third of the photographs is kept aside and only
scored.
"""

import csv
import json
import sys
import zlib
from pathlib import Path

import cv2
import numpy as np
import torch
from torch.nn.functional import cross_entropy, interpolate

from lenskeep.core.detect.covers import CLASSES, colour_features
from lenskeep.core.detect.sky import DECODED_STAGES, decoder_inputs
from lenskeep.files.networks import backbone_network
from tools.sky_decoder.made_up_skies import developed
from tools.sky_decoder.samples import framed, kept_aside

MADE = Path(__file__).parent / "frames"
VARIANTS, ROUNDS, SIDE = 16, 60, 768
GRID = 8  # labels are compared at this fraction of the network's input size


class Head(torch.nn.Module):
    def __init__(self, widths):
        super().__init__()
        self.norm = torch.nn.ModuleList([torch.nn.BatchNorm2d(n, affine=False) for n in widths])
        self.maps = torch.nn.ModuleList([torch.nn.Conv2d(n, len(CLASSES), 1) for n in widths])

    def forward(self, stages, size):
        out = 0
        for k, stage in enumerate(stages):
            x = torch.nn.functional.dropout2d(self.norm[k](stage), 0.3, self.training)
            if self.training and torch.rand(()) < 0.15:
                continue
            out = out + interpolate(self.maps[k](x), size=size, mode="bilinear", align_corners=False)
        return out


def labelled(folder: Path, stem: str, boxes: dict) -> tuple[np.ndarray, np.ndarray]:
    path = (MADE if stem.startswith("LKD") else folder) / f"{stem}.jpg"
    image = cv2.cvtColor(cv2.imread(str(path)), cv2.COLOR_BGR2RGB)
    scale = SIDE / max(image.shape[:2])
    image = cv2.resize(image, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA).astype(np.float32) / 255
    h, w = image.shape[:2]
    label = np.full((h, w), -1, np.float32)
    for name, rectangles in boxes.items():
        for x0, y0, x1, y1 in rectangles:
            label[int(y0 * h) : int(y1 * h), int(x0 * w) : int(x1 * w)] = CLASSES.index(name)
    return image, label


def sample(picture: np.ndarray, label: np.ndarray, backbone) -> tuple[list[torch.Tensor], torch.Tensor]:
    fed = decoder_inputs(np.ascontiguousarray(picture), max(picture.shape[:2]), backbone)
    h, w = fed["picture"].shape[2] * 2 // GRID, fed["picture"].shape[3] * 2 // GRID
    stages = [torch.from_numpy(fed[f"s{k}"]) for k in DECODED_STAGES]
    stages.append(torch.from_numpy(colour_features(picture, h, w)[None]))
    return stages, torch.from_numpy(cv2.resize(label, (w, h), interpolation=cv2.INTER_NEAREST)).long()


def gathered(folder, stems, labels, backbone, variants):
    out = []
    for stem in stems:
        random = np.random.default_rng(zlib.crc32(stem.encode()))
        image, label = labelled(folder, stem, labels[stem])
        for k in range(variants):
            picture, own = (image, label) if k == 0 else framed(image, label, random, 0.6)
            picture = developed(picture, random) if k else np.rint(picture * 255).astype(np.uint8)
            out.append((stem, *sample(picture, np.ascontiguousarray(own), backbone)))
    return out


def fit(samples) -> Head:
    torch.manual_seed(5)
    head = Head([s.shape[1] for s in samples[0][1]])
    counts = torch.zeros(len(CLASSES))
    for _, _, label in samples:
        counts += torch.bincount(label[label >= 0], minlength=len(CLASSES))
    weight = (counts.sum() / counts.clamp(min=1)).sqrt()
    optimiser = torch.optim.AdamW(head.parameters(), lr=2e-3, weight_decay=0.3)
    schedule = torch.optim.lr_scheduler.OneCycleLR(optimiser, 2e-3, total_steps=ROUNDS * len(samples))
    for turn in range(ROUNDS):
        head.train()
        total = 0.0
        for i in torch.randperm(len(samples)).tolist():
            _, stages, label = samples[i]
            logit = head(stages, label.shape)
            if isinstance(logit, int) or not (label >= 0).any():
                schedule.step()
                continue
            loss = cross_entropy(logit, label[None], weight / weight.mean(), ignore_index=-1)
            optimiser.zero_grad()
            loss.backward()
            optimiser.step()
            schedule.step()
            total += float(loss.detach())
        if turn % 20 == 19:
            print(f"round {turn + 1}: {total / len(samples):.3f}", flush=True)
    return head.eval()


def check(head, samples, words):
    hits, table = {}, np.zeros((len(CLASSES), len(CLASSES)))
    for stem, stages, label in samples:
        with torch.no_grad():
            found = head(stages, label.shape)[0].argmax(0)
        known = label >= 0
        hits[stem] = round(float((found[known] == label[known]).float().mean()), 2)
        np.add.at(table, (label[known].numpy(), found[known].numpy()), 1)
    print(words, hits)
    print(CLASSES, (table / table.sum(1, keepdims=True).clip(1)).round(2).tolist())


def main(folder: Path, out: Path) -> None:
    with (folder / "index.tsv").open() as handle:
        aside = kept_aside(list(csv.DictReader(handle, delimiter="\t")))
    labels = json.loads((Path(__file__).parent / "labels.json").read_text())
    backbone = backbone_network()
    fitted = [s for s in labels if s not in aside]
    samples = gathered(folder, fitted, labels, backbone, VARIANTS)
    print(len(samples), "samples", flush=True)
    head = fit(samples)
    check(head, samples[::VARIANTS], "fitted:")
    check(head, gathered(folder, [s for s in labels if s in aside], labels, backbone, 1), "kept aside:")
    arrays = {}
    for k, (norm, linear) in enumerate(zip(head.norm, head.maps, strict=True)):
        # the normalisation is folded into the map
        scale = 1 / np.sqrt(norm.running_var.numpy() + norm.eps)
        weight = linear.weight.detach().numpy()[:, :, 0, 0] * scale
        arrays[f"w{k}"] = weight.astype(np.float16)
        arrays[f"b{k}"] = (linear.bias.detach().numpy() - weight @ norm.running_mean.numpy()).astype(np.float32)
    np.savez_compressed(out, **arrays)


if __name__ == "__main__":
    main(Path(sys.argv[1]), Path(sys.argv[2]))
