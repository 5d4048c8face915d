"""The demo scenes, one class a file: ``frame(n)`` returns linear light, at 25 frames per second."""

from idle_shimmer.demo.scenes.carousel import Carousel
from idle_shimmer.demo.scenes.crowd import Crowd
from idle_shimmer.demo.scenes.dusk_water import DuskWater
from idle_shimmer.demo.scenes.fireworks import Fireworks
from idle_shimmer.demo.scenes.lanterns import Lanterns
from idle_shimmer.demo.scenes.sail import Sail
from idle_shimmer.demo.scenes.title_board import TitleBoard
from idle_shimmer.demo.scenes.wake import Wake

SCENES = (DuskWater, Sail, Lanterns, Crowd, Carousel, Fireworks, Wake, TitleBoard)
