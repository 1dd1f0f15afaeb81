"""A dog that walks through: here, there, and gone, so that what it covered is known."""

from dataclasses import replace

from tools.photos import dog, grounds
from tools.photos.dressed import add_dog
from tools.photos.mesh import standing_at
from tools.photos.scenes.unseen import COLLIE, view


def beach():
    return grounds.beach(view((0.0, -3.2, 0.75), (0.0, 0.6, 0.42), 32, 0.012), grounds.FAIR, 89)


def here():
    scene = beach()
    add_dog(scene, "animal 1", standing_at(grounds.shore, -0.42, 0.5), -60, COLLIE, dog.STAND, "red", 240000, 311)
    return scene


def there():
    scene = beach()
    pose = replace(dog.STAND, head_turn=14)
    add_dog(scene, "animal 1", standing_at(grounds.shore, 0.55, 0.62), -64, COLLIE, pose, "red", 240000, 313)
    return scene


SHOTS = {"here": here, "there": there, "gone": beach}


def build(shot):
    return SHOTS[shot]()
