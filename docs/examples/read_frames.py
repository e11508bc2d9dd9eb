"""Reads a frame cache of Mighty Rubble (format: ../formats.md) with nothing but the standard library.

    python3 read_frames.py FOLDER [FRAME [BODY]]

Without a frame it says what the folder holds; with one it prints a line for each body:
name, place in metres, rotation as a quaternion x y z w.
"""

import json
import struct
import sys
from pathlib import Path

MAGIC = 0x3146524D  # "MRF1"
HEAD = struct.Struct("<IIiI")  # magic, version, frame, bodies
POSE = struct.Struct("<7f")  # x y z, qx qy qz qw


def read_names(folder):
    """What the cache is about: names of bodies, frame range, frames per second."""
    for path in sorted(folder.glob("*.json")):
        about = json.loads(path.read_text(encoding="utf-8"))
        if about.get("format") == "mighty-rubble-frames":
            return about, path.stem
    raise SystemExit(f"{folder} holds no list of names; it is no frame cache")


def read_frame(path):
    """The frame's number and the poses of all bodies, in the order of the names."""
    data = path.read_bytes()
    magic, version, frame, bodies = HEAD.unpack_from(data)
    if magic != MAGIC or version != 1:
        raise SystemExit(f"{path} is no frame of version 1")
    if len(data) != HEAD.size + bodies * POSE.size:
        raise SystemExit(f"{path} is cut short")
    return frame, [POSE.unpack_from(data, HEAD.size + i * POSE.size) for i in range(bodies)]


def main(folder, frame=None, body=None):
    folder = Path(folder)
    about, stem = read_names(folder)
    if frame is None:
        files = sorted(folder.glob(f"{stem}_*.mrf"))
        print(f"{about['name']}: {len(about['bodies'])} bodies, {len(files)} frames at {about['fps']} fps")
        return
    for path in folder.glob(f"{stem}_*.mrf"):
        number, poses = read_frame(path)
        if number == int(frame):
            for name, pose in zip(about["bodies"], poses):
                if body in (None, name):
                    print(name, *(f"{value:.9g}" for value in pose))
            return
    raise SystemExit(f"frame {frame} is not in {folder}")


if __name__ == "__main__":
    if not 2 <= len(sys.argv) <= 4:
        raise SystemExit(__doc__)
    main(*sys.argv[1:])
