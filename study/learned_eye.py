#!/usr/bin/env python3
"""Whether a small learned eye beside the named figures would read better: a trial, nothing ships of it.

    heron-study reading --examples FILE.csv --more 80
    study/learned_eye.py FILE.csv            (Debian: python3-numpy, python3-torch; a quarter of an hour)

A network looks at the picture about each candidate (study/cut_out.hpp) and adds to the logarithms of the chances that the
shipped weighing gives. Fitted on the lakes for fitting and the empty twins of those; told of the lakes for scoring and of
those of other makings: recall of what stands out at four precisions, kind and family of what is found at 0.90, and how
many candidates of the empty twins are believed as much as that. Candidates are counted, not joined contacts.
"""
import csv
import sys

import numpy as np
import torch
from torch import nn
from torch.nn import functional

KINDS, LINES, COLUMNS, SCALES = 17, 32, 64, 2
FISH = {"fish", "fish_group", "bait_ball"}
BOTTOM = {"none", "hole", "hump", "ledge", "channel", "bed"}


class Examples:
    def __init__(self, path):
        with open(path) as file:
            lines = csv.reader(file)
            head = next(lines)
            first = head.index("is none")
            self.kinds = [name[3:] for name in head[first:first + KINDS]]
            rows, self.stands_out = [], {}
            for x in lines:
                lake, where, bare, zone, kind = int(x[0]), x[1], x[4] == "1", int(x[5]), self.kinds.index(x[6])
                if zone < 0:
                    self.stands_out.setdefault(where, set()).add((lake, int(x[8])))
                elif len(x) == len(head):
                    rows.append((lake, where + (" empty" if bare else ""), zone, kind, float(x[7]), int(x[8]),
                                 [float(v) for v in x[first:]]))
        cuts = np.fromfile(path + ".cuts", np.int8).reshape(-1, SCALES, LINES, COLUMNS)
        rows = rows[:len(cuts)]
        self.cuts = cuts[:len(rows)]
        self.lake, self.where, self.zone, self.kind, self.weight, self.thing = (
            np.array([r[i] for r in rows]) for i in range(6))
        told = np.array([r[6] for r in rows])
        self.chances, figures = told[:, :KINDS], told[:, KINDS:]
        self.fits = np.isin(self.where, ["fitting", "fitting empty", "more"])
        spread = np.maximum(0.05, figures[self.fits].std(0))
        self.figures = np.clip((figures - figures[self.fits].mean(0)) / spread, -3, 3).astype(np.float32)
        self.weight = self.weight * np.where(self.where == "fitting empty", 0.3, 1)


class Eye(nn.Module):
    def __init__(self, figures, looks):
        super().__init__()
        self.looks = looks
        self.picture = nn.Sequential(
            nn.Conv2d(2 * SCALES, 12, 5, padding=2, stride=2), nn.ReLU(), nn.Conv2d(12, 16, 3, padding=1), nn.ReLU(),
            nn.MaxPool2d(2), nn.Conv2d(16, 24, 3, padding=1), nn.ReLU(), nn.MaxPool2d(2),
            nn.Conv2d(24, 32, 3, padding=1), nn.ReLU(), nn.AvgPool2d((1, 2)), nn.Flatten(),
            nn.Linear(512, 48), nn.ReLU(), nn.Dropout(0.3))
        self.weighing = nn.Sequential(nn.Linear(figures + 3 + 48 * looks, 48), nn.ReLU(), nn.Dropout(0.2),
                                      nn.Linear(48, KINDS))
        nn.init.zeros_(self.weighing[-1].weight)
        nn.init.zeros_(self.weighing[-1].bias)

    def forward(self, picture, named):
        return self.weighing(torch.cat([named, self.picture(picture)], 1) if self.looks else named)


def pictures(e, which, random=None):
    """Levels and where there are any; with `random` as another device at another place might have heard them."""
    cut = e.cuts[which].astype(np.float32)
    heard = (cut > -128).astype(np.float32)
    level = np.where(heard > 0, cut / 24, 0)
    if random is not None:
        each = (len(which), 1, 1, 1)
        turned = random.random(len(which)) < 0.5
        level[turned], heard[turned] = level[turned, :, ::-1], heard[turned, :, ::-1]
        level = level * (1 + 0.15 * random.standard_normal(each)) + heard * 0.08 * random.standard_normal(each)
        level += heard * 0.12 * np.abs(random.standard_normal(each)) * random.standard_normal(level.shape)
        by = random.integers(-1, 2, 2)
        level, heard = np.roll(level, by, (2, 3)), np.roll(heard, by, (2, 3))
    return torch.from_numpy(np.concatenate([level, heard], 1).astype(np.float32))


def fit(e, looks, rounds=14, batch=128, seed=1):
    random = np.random.default_rng(seed)
    torch.manual_seed(seed)
    zone = np.eye(3, dtype=np.float32)[e.zone]
    shipped = torch.from_numpy(np.log(np.clip(e.chances, 1e-4, 1)).astype(np.float32))
    eye = Eye(e.figures.shape[1], looks)
    steps = np.flatnonzero(e.fits)
    rate = 2e-3
    by = torch.optim.AdamW(eye.parameters(), lr=rate, weight_decay=0.02)
    pace = torch.optim.lr_scheduler.OneCycleLR(by, rate, total_steps=rounds * (len(steps) // batch) + 1)

    def chances(which, jitter):
        named = e.figures[which]
        if jitter:
            named = named + 0.25 * random.standard_normal(named.shape).astype(np.float32)
        named = torch.from_numpy(np.concatenate([named, zone[which]], 1).astype(np.float32))
        picture = pictures(e, which, random if jitter else None) if looks else None
        return eye(picture, named) + shipped[which]

    for _ in range(rounds):
        random.shuffle(steps)
        for i in range(len(steps) // batch):
            which = steps[i * batch:(i + 1) * batch]
            loss = functional.cross_entropy(chances(which, True), torch.from_numpy(e.kind[which]), reduction="none")
            by.zero_grad()
            (loss * torch.from_numpy(e.weight[which]).float()).mean().backward()
            by.step()
            pace.step()
    eye.eval()
    with torch.no_grad():
        parts = np.array_split(np.arange(len(e.kind)), len(e.kind) // 512 + 1)
        return np.concatenate([functional.softmax(chances(part, False), 1).numpy() for part in parts])


def tell(e, name, chances, where):
    real = 1 - chances[:, 0]
    order = np.flatnonzero(e.where == where)
    order = order[np.argsort(-real[order])]
    best, wrong, seen, at = {}, 0, 0, {}
    for i in order:
        key = (e.lake[i], e.thing[i])
        if e.kind[i] == 0:
            wrong += 1
        elif key not in best:
            best[key] = i
            seen += key in e.stands_out[where]
        for precision in (0.95, 0.90, 0.88, 0.85):
            if len(best) > 30 and len(best) >= precision * (len(best) + wrong):
                at[precision] = (seen / len(e.stands_out[where]), real[i])
    level = at[0.90][1]
    found = np.array([i for i in best.values() if real[i] >= level])
    family = np.array([0 if k in FISH else 2 if k in BOTTOM else 1 for k in e.kinds])
    of_family = np.stack([chances[found][:, 1:][:, family[1:] == f].sum(1) for f in range(3)], 1).argmax(1)
    kind = chances[found, 1:].argmax(1) + 1
    print(f"{name:16}{where:9}", *(f"{p:.2f}: {r:.3f}" for p, (r, _) in at.items()),
          f"kind {np.mean(kind == e.kind[found]):.2f} family {np.mean(of_family == family[e.kind[found]]):.2f}",
          f"empty {np.sum(real[e.where == where + ' empty'] >= level)}", flush=True)


def main():
    e = Examples(sys.argv[1])
    for name, chances in (("shipped", e.chances), ("figures anew", fit(e, False)), ("with an eye", fit(e, True))):
        for where in ("scoring", "drawn"):
            tell(e, name, chances, where)


if __name__ == "__main__":
    main()
