"""The demo shop's jobs: Tarn & Tinder, Merrowmere. Invented, like everything in them."""

from dataclasses import dataclass, field
from importlib import resources

from swaddon.core.colour.spaces import Rgb
from swaddon.core.inks.settings import Recipe
from swaddon.core.knockout.settings import Knockout
from swaddon.core.order.settings import PlanSettings
from swaddon.core.white.settings import WhiteSettings
from swaddon.io import profiles
from swaddon.io.garments import shipped_garments
from swaddon.io.images import decode_artwork
from swaddon.io.print_areas import shipped_table
from swaddon.session.job import ArtworkFile, Job
from swaddon.session.line_list import ShopGoods, lines_of
from swaddon.session.order_edits import add_lines


@dataclass(frozen=True)
class DemoJob:
    """One job of the demo shop; the artwork is decoded when it is opened."""

    key: str
    title: str
    file: str
    cloth: str
    process: str
    width_mm: float
    garment: Rgb
    quantity: int
    knockouts: tuple[Knockout, ...] = ()
    white: WhiteSettings = field(default_factory=WhiteSettings)
    recipes: tuple[Recipe, ...] = ()
    lines: str = ""
    """Rows of the order's lines, where there are several."""

    def open(self) -> Job:
        """The job with its artwork."""
        data = (resources.files("swaddon") / "demo" / self.file).read_bytes()
        settings = PlanSettings(
            width_mm=self.width_mm,
            garment=self.garment,
            knockouts=self.knockouts,
            quantity=self.quantity,
            white=self.white,
            recipes=self.recipes,
        )
        job = Job(
            name=self.title,
            file=ArtworkFile(decode_artwork(data, self.file), data),
            settings=settings,
            profile=profiles.shipped(self.process),
            cloth=self.cloth,
            customer="Tarn & Tinder",
        )
        return self._with_lines(job) if self.lines else job

    def _with_lines(self, job: Job) -> Job:
        goods = ShopGoods(shipped_garments(), shipped_table())
        made = add_lines(lines_of(self.lines, goods), goods.table).made(job)
        return made.turned_to(0)


DEMO_JOBS = (
    DemoJob(
        "lantern", "Lantern Regatta crew shirt", "lantern-regatta.png", "shirt", "film", 280.0, (27, 27, 31), 36,
        (Knockout(None, 2.0, "outside", "soft"),),
    ),
    DemoJob(
        "club", "Night Heron club order", "night-heron.png", "shirt", "film", 240.0, (31, 41, 68), 1,
        lines="navy,M,12,front,240mm\nnavy,2XL,4,front,280mm\nblack,L,8,front,240mm\nheather grey tee,M,6,back\n"
        "white,S,10,front,240mm\nnatural canvas,,5,tote",
    ),
    DemoJob("heron", "Night Heron Rowing hoodie", "night-heron.png", "shirt", "film", 240.0, (31, 41, 68), 18),
    DemoJob("kettle", "Kettle Hill Repair Café tote", "kettle-hill.jpg", "tote", "direct", 240.0, (224, 212, 186), 60),
    DemoJob("choir", "Saltgrass Choir tour shirt", "saltgrass-choir.png", "shirt", "direct", 250.0, (250, 250, 248), 9),
    DemoJob(
        "marble", "Low Orbit Marble League jersey label", "marble-league.png", "shirt", "toner-onepass", 110.0,
        (158, 28, 38), 24, white=WhiteSettings("limit", 280.0, choke_mm=0.3),
    ),
    DemoJob(
        "ferry", "Fogbell Ferry pastille tin", "fogbell-ferry.png", "tin", "decal", 100.0, (24, 66, 48), 40,
        white=WhiteSettings(choke_mm=0.2),
        recipes=(Recipe((200, 69, 47), (0.1, 0.92, 0.95, 0.02)), Recipe((240, 151, 58), (0.0, 0.47, 0.84, 0.0))),
    ),
    DemoJob(
        "tag", "Boathouse bag tag", "boathouse-tag.png", "tag", "toner-twopass", 52.0, (68, 70, 74), 30,
        white=WhiteSettings(choke_mm=0.4),
    ),
)  # fmt: skip


def demo_job(key: str) -> Job:
    """A demo job by its key."""
    return next(job for job in DEMO_JOBS if job.key == key).open()
