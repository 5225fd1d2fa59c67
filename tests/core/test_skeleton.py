"""The ghost of bones: complete enough to count and name by, inside the skin, and where the landmarks say."""

import re
from collections import Counter

import numpy as np

from acuthesis.core.body.skeleton import skeleton


def centre(bone):
    return bone.rings.mean(axis=(0, 1))


def test_bones_can_be_counted_and_named(body):
    bones = skeleton(body.places)
    kinds = Counter(re.sub(r"\d+", "N", bone.id.split(".", 1)[-1]) for bone in bones)
    assert kinds["rib_N"] == 24
    assert sum(kinds[f"{part}N_body"] for part in "ctl") == 24
    assert kinds["metatarsal_N"] == kinds["metacarpal_N"] == 10
    # Toes: a near and an end bone each, a middle one but for the big toe; fingers and thumb alike.
    assert kinds["toe_N_near"] + kinds["toe_N_middle"] + kinds["toe_N_end"] == 28
    fingers = sum(kinds[f"finger_N_{part}"] for part in ("near", "middle", "end"))
    assert fingers + kinds["thumb_near"] + kinds["thumb_end"] == 28
    wrist = ("scaphoid", "lunate", "triquetrum", "pea_bone", "trapezium", "trapezoid", "capitate", "hamate")
    assert all(kinds[name] == 2 for name in wrist)
    assert len({bone.id for bone in bones}) == len(bones)
    assert len({bone.name for bone in bones}) > 90


def test_bones_lie_under_the_skin_and_are_mirrored(body):
    bones = {bone.id: bone for bone in skeleton(body.places)}
    for id, bone in bones.items():
        corners = bone.rings.reshape(-1, 3)
        skin, normals = body.figure.nearest_with_normals(corners)
        out = ((corners - skin) * normals).sum(axis=1)
        # A stout armpit folds into itself: what is far inside does not count. In the head there is skin all about:
        # mouth, nose and eye sockets.
        if id.split(".")[-1] not in ("skull", "eye_socket_rim", "upper_jaw", "mandible", "cheek_arch"):
            assert (out[out < 1.0] < 0.02).all(), f"{id} comes out of the skin"
        if id.startswith("left."):
            other = bones[id.replace("left.", "right.")]
            assert np.allclose(np.sort(other.rings[..., 0].ravel()), np.sort(-bone.rings[..., 0].ravel()))
            assert centre(bone)[0] > 0


def test_bones_lie_where_the_landmarks_are(body):
    bones = {bone.id: bone for bone in skeleton(body.places)}
    near = {
        "left.patella": ("patella_base", 4),
        "left.fibula": ("fibula_head", 3),
        "left.inner_ankle_bone": ("medial_malleolus_tip", 3),
        "left.calcaneus": ("heel_cord_end", 4),
        "left.metatarsal_5": ("metatarsal_5_base", 2.5),
        "left.ulna": ("olecranon", 4.5),
        "left.radius": ("radial_styloid", 4),
        "left.collarbone": ("clavicle_middle", 4.5),
        "left.blade": ("scapula_inferior_angle", 9),  # on a stout back
        "skull": ("vertex", 4),
        "left.mandible": ("mandible_angle", 3),
    }
    for id, (landmark, most) in near.items():
        place = body.places.landmark(landmark, "left")
        away = np.linalg.norm(bones[id].rings.reshape(-1, 3) - place, axis=1).min()
        assert away < most, f"{id} is {away:.1f} cm from {landmark}"
    # Ribs lie one below the other, at the spine and in front, and the spaces between them are the landmarks.
    front = [bones[f"left.rib_{n}"].rings[-1].mean(axis=0)[1] for n in range(1, 8)]
    assert front == sorted(front, reverse=True)
    for n in range(2, 6):
        space = body.places.landmark(f"intercostal_space_{n}", "left")[1]
        assert front[n - 1] > space > front[n], f"space {n} lies between ribs {n} and {n + 1}"
    spine = [centre(bones[f"{name}_body"])[1] for name in ("c1", "c7", "t1", "t6", "t12", "l1", "l5")]
    assert spine == sorted(spine, reverse=True)
