"""Days by discrete events: the trade's rates, queueing theory's closed forms, Little's law, bounds, and no deadlock."""

import itertools
import math
from dataclasses import replace

import numpy as np
import pytest
import simpy
from hypothesis import given, settings
from hypothesis import strategies as st

from swaddon.core.flow.bound import bound
from swaddon.core.flow.day import Day, Order, simulate
from swaddon.core.flow.places import Pool
from swaddon.core.flow.risk import what_if
from swaddon.core.flow.shop import HANDS, OVEN, PLATEN, PRESS, PRETREATER, PRINTER, Shop, Stage
from swaddon.io.shops import checked, shipped_shop

TARN = replace(shipped_shop().fixed(), change_s=0.0, refill_every=0)
LIGHT = Order("light", "direct", 57.0, 200, is_pretreated=False)
DARK = Order("dark", "direct", 169.0, 200)


def with_(presses: int, hands: int = 3, shop: Shop = TARN) -> Shop:
    return shop.with_count(PRESS, presses).with_count(HANDS, hands)


def test_the_trades_rates_with_presses_enough():
    """Common practice, no source: 57 s and 169 s of printing make 40 to 45 light and 15 to 18 dark shirts an hour."""
    assert 40 <= simulate(with_(3), [LIGHT]).per_hour <= 45
    assert 15 <= simulate(with_(3), [DARK]).per_hour <= 18


def test_one_press_does_not_keep_up_where_it_dries_and_cures():
    """Common practice, no source: at 57 s a print one press does not keep up, a second is needed; the press is why."""
    treated = replace(LIGHT, is_pretreated=True)
    one, two = simulate(with_(1), [treated]), simulate(with_(2), [treated])
    assert one.per_hour < 35
    assert two.per_hour > 40
    assert one.bottleneck == PRESS
    assert two.bottleneck == PRINTER
    more = what_if(with_(1), [treated])
    assert more[0].resource == PRESS
    assert more[0].gain > 5


def test_pieces_are_all_made_and_spoiled_ones_again():
    day = simulate(replace(TARN, spoilage_share=0.3), [replace(LIGHT, quantity=60)], seed=3)
    assert day.spoiled > 5
    assert len(day.left) == 60 + day.spoiled
    assert len(day.entered) == len(day.left)


def test_places_go_by_rank_then_by_who_asked_first():
    env, served = simpy.Environment(), []
    pool = Pool(env, 1)

    def guest(name, rank):
        yield from pool.take(rank)
        yield env.timeout(1)
        served.append(name)
        pool.give()

    for name, rank in (("first", 5), ("late", 2), ("soon", 1), ("later", 2)):
        env.process(guest(name, rank))
    env.run()
    assert served == ["first", "soon", "late", "later"]


def test_the_same_seed_is_the_same_day_and_another_is_another():
    shop = shipped_shop()
    orders = [replace(LIGHT, quantity=30), Order("film", "film", 40.0, 20)]
    one, again, other = (simulate(shop, orders, seed) for seed in (4, 4, 5))
    assert one.bars == again.bars
    assert one.finish != other.finish


# closed forms


def line(machine_s: float, count: int = 1) -> Shop:
    """One machine, and hands that are never short."""
    return Shop(
        "line", {PRINTER: count, HANDS: 99}, {"direct": (Stage("Print", PRINTER),)}, rack=10_000, open=((0.0, 1440.0),)
    )


def test_one_server_with_fixed_times_is_the_closed_form():
    day = simulate(line(10), [Order("a", "direct", 10.0, 50)])
    assert day.end_s == pytest.approx(500)
    assert day.use(PRINTER) == pytest.approx(1)
    assert day.bottleneck == PRINTER
    three = simulate(line(10, 3), [Order("a", "direct", 10.0, 50)])
    assert three.end_s == pytest.approx(math.ceil(50 / 3) * 10)


def test_two_stages_are_the_max_plus_recursion():
    """The end of piece n at stage k is max(end of n − 1 at k, end of n at k − 1) + time (Baccelli et al. 1992)."""
    shop = Shop(
        "two", {PRINTER: 1, PRESS: 1, HANDS: 99},
        {"direct": (Stage("Print", PRINTER), Stage("Cure", PRESS, machine_s=14.0))}, rack=10_000, open=((0.0, 1440.0),),
    )  # fmt: skip
    day = simulate(shop, [Order("a", "direct", 10.0, 20)])
    first = second = 0.0
    for _ in range(20):
        first += 10.0
        second = max(first, second) + 14.0
    assert day.end_s == pytest.approx(second)


def test_places_are_waited_for_as_queueing_theory_says():
    """M/D/1 and M/M/2 mean waits: Pollaczek–Khinchine ρ/(2(1 − ρ)), and Erlang C; Kleinrock 1975, ch. 3 and 5."""

    def waits(servers: int, service, load: float, seed: int) -> float:
        chance, env, total = np.random.default_rng(seed), simpy.Environment(), []
        server = Pool(env, servers)

        def guest(env):
            since = env.now
            yield from server.take(0)
            total.append(env.now - since)
            yield env.timeout(service(chance))
            server.give()

        def door(env):
            for _ in range(40_000):
                yield env.timeout(chance.exponential(1 / (load * servers)))
                env.process(guest(env))

        env.process(door(env))
        env.run()
        return float(np.mean(total))

    assert waits(1, lambda _: 1.0, 0.8, 1) == pytest.approx(0.8 / (2 * 0.2), rel=0.12)
    rho, servers = 0.8, 2
    offered = rho * servers
    tail = offered**servers / math.factorial(servers) / (1 - rho)
    erlang = tail / (sum(offered**n / math.factorial(n) for n in range(servers)) + tail)
    assert waits(2, lambda chance: chance.exponential(1.0), rho, 2) == pytest.approx(
        erlang / (servers * (1 - rho)), rel=0.12
    )


# properties of every shop


COUNT = st.integers(1, 3)
SHOPS = st.builds(
    lambda printer, press, oven, hands, platen, rack, held, gang, scatter, spoil, attended: replace(
        shipped_shop(),
        counts={PRINTER: printer, PRESS: press, OVEN: oven, PRETREATER: 1, HANDS: hands, PLATEN: platen},
        rack=rack,
        held_platen=held,
        gangs={"film": gang},
        hand_scatter=scatter,
        spoilage_share=spoil,
        routes={
            process: tuple(replace(stage, attended=attended and stage.machine == PRESS) for stage in route)
            for process, route in shipped_shop().routes.items()
        },
    ),
    COUNT, COUNT, st.integers(1, 2), COUNT, st.integers(0, 4), st.integers(1, 30), st.booleans(), st.integers(1, 9),
    st.sampled_from([0.0, 0.3]), st.sampled_from([0.0, 0.15]), st.booleans(),
)  # fmt: skip
ORDERS = st.lists(
    st.builds(
        Order,
        st.just("o"),
        st.sampled_from(["direct", "film", "toner-onepass", "toner-twopass", "decal"]),
        st.floats(5, 200),
        st.integers(1, 12),
        is_pretreated=st.booleans(),
    ),
    min_size=1,
    max_size=4,
)


def check_laws(day: Day) -> None:
    """Every piece is made, no machine does two things at once, Little's law and the bottleneck bound hold."""
    pieces = day.pieces + day.spoiled
    assert len(day.left) == len(day.entered) == pieces
    assert day.end_s == pytest.approx(max(day.left), rel=1e-9) or day.spoiled
    for resource, count in day.shop.counts.items():
        assert day.busy_s[resource] <= count * max(day.left) * (1 + 1e-9)
    changes = sorted([(at, 1) for at in day.entered] + [(at, -1) for at in day.left])
    area = inside = last = 0.0
    for at, change in changes:
        area, last = area + inside * (at - last), at
        inside += change
        assert inside <= max(1, day.shop.rack)
    mean_time = (sum(day.left) - sum(day.entered)) / pieces
    assert area == pytest.approx(pieces * mean_time, rel=1e-6)  # L = λ W (Little 1961)


@settings(max_examples=60)
@given(SHOPS, ORDERS, st.integers(0, 1000))
def test_laws_hold_in_every_shop_and_nothing_locks(shop, orders, seed):
    day = simulate(shop, orders, seed)
    check_laws(day)
    by_machine: dict[tuple[str, int], list[tuple[float, float, int]]] = {}
    for bar in day.bars:
        if bar.machine:
            by_machine.setdefault((bar.machine, bar.unit), []).append((bar.start, bar.end, bar.order))
    for spans in by_machine.values():
        spans.sort()
        for (start, end, _), (after, until, _) in itertools.pairwise(spans):
            assert after >= end - 1e-6 or (after, until) == (start, end)  # a gang is one thing


@settings(max_examples=25)
@given(SHOPS, ORDERS)
def test_no_day_without_chance_beats_the_bottleneck(shop, orders):
    fixed = replace(shop.fixed(), stop_share=0.0, change_s=0.0, refill_every=0)
    orders = [replace(order, quantity=12) for order in orders]
    found = bound(fixed, orders)
    assert simulate(fixed, orders).end_s >= found.least_s * (1 - 1e-9)


@pytest.mark.parametrize("resource", [PRINTER, PRESS, HANDS, OVEN])
@pytest.mark.parametrize("order", [LIGHT, replace(DARK, quantity=80), Order("film", "film", 45.0, 120)])
def test_one_more_never_lowers_the_rate_by_more_than_two_percent(resource, order):
    for presses in (1, 2):
        for hands in (1, 2):
            shop = with_(presses, hands)
            before = simulate(shop, [order]).per_hour
            after = simulate(shop.with_count(resource, shop.counts[resource] + 1), [order]).per_hour
            assert after >= 0.98 * before


def test_every_shop_that_can_be_entered_ends():
    """Finite racks, held platens, one press for drying and curing, one pair of hands that stays at the press."""
    for rack, held, attended, platens in itertools.product((1, 2, 3, 8), (False, True), (False, True), (0, 1, 3)):
        shop = replace(
            shipped_shop(), rack=rack, held_platen=held,
            counts={**dict.fromkeys(shipped_shop().counts, 1), PLATEN: platens},
            routes={
                process: tuple(replace(stage, attended=attended) for stage in route)
                for process, route in shipped_shop().routes.items()
            },
        )  # fmt: skip
        orders = [Order(process, process, 60.0, 7) for process in shop.routes]
        check_laws(simulate(checked(shop), orders, 2))


def test_a_held_platen_keeps_the_printer_until_the_press_is_free():
    treated = replace(LIGHT, is_pretreated=True)
    free, held = (simulate(replace(with_(1, 2), held_platen=keep), [treated]).per_hour for keep in (False, True))
    assert held < free


def test_a_second_platen_is_loaded_while_the_printer_prints():
    """With goods ready a piece takes the print alone, not loading, print and unloading one after the other."""
    still = replace(TARN, stop_share=0.0, counts={PRINTER: 1, HANDS: 3, PRESS: 4})
    load, unload = 14.0, 6.0
    one, two = (simulate(still.with_count(PLATEN, count), [LIGHT]) for count in (1, 2))
    assert one.end_s == pytest.approx(simulate(still, [LIGHT]).end_s)
    first, last = load, one.end_s - 200 * (load + LIGHT.print_s + unload)
    assert two.end_s == pytest.approx(first + 200 * LIGHT.print_s + unload + last)
    assert two.bottleneck == PRINTER
    assert two.use(PLATEN) == pytest.approx(200 * (load + LIGHT.print_s + unload) / (2 * two.end_s))
    assert simulate(still.with_count(PLATEN, 3), [LIGHT]).end_s == pytest.approx(two.end_s)
    gain = {item.resource: item.gain for item in what_if(still.with_count(PLATEN, 1), [LIGHT])}
    assert gain[PLATEN] == max(gain.values())
    assert bound(still.with_count(PLATEN, 1), [LIGHT]).bottleneck == PLATEN


def test_a_held_platen_waits_for_the_press_while_the_printer_goes_on():
    treated = replace(LIGHT, is_pretreated=True)
    shops = (replace(with_(1, 2).with_count(PLATEN, count), held_platen=True) for count in (1, 3))
    one, three = (simulate(shop, [treated]).per_hour for shop in shops)
    assert three > one


def test_a_resource_counted_none_is_not_there():
    assert simulate(TARN.with_count(OVEN, 0), [replace(LIGHT, quantity=3)]).end_s > 0


def test_staying_at_the_press_costs_a_lone_person_dearly():
    stays = replace(
        TARN,
        routes={"direct": tuple(replace(stage, attended=stage.machine == PRESS) for stage in TARN.routes["direct"])},
    )
    assert simulate(with_(1, 1, stays), [LIGHT]).per_hour < 0.8 * simulate(with_(1, 1), [LIGHT]).per_hour


def test_changing_orders_and_refills_take_hands_at_the_printer():
    slow = replace(TARN, change_s=300.0, refill_every=10, refill_s=120.0)
    orders = [replace(LIGHT, quantity=20), replace(LIGHT, name="other", quantity=20)]
    apart = simulate(slow, orders).end_s - simulate(TARN, orders).end_s
    assert apart >= 300 + 3 * 120


def test_breaks_and_nights_are_put_back_by_the_clock():
    shop = replace(TARN, open=((480.0, 720.0), (750.0, 1020.0)), breaks=((600.0, 615.0),))
    assert sum(end - start for start, end in shop.spans) == (240 - 15 + 270) * 60
    for minutes in (0, 119, 121, 300, 494, 600):
        clock = shop.clock(minutes * 60)
        assert shop.work(clock) == pytest.approx(minutes * 60)
    assert shop.clock(120 * 60) / 60 == 600
    assert shop.clock(121 * 60) / 60 == 616
    assert shop.clock(496 * 60) > 86_400


@pytest.mark.parametrize(
    ("process", "lacks", "gone"),
    [
        ("toner-twopass", {"has_white": False}, {"Second pass, feed again"}),
        ("film", {"pressed_twice": False}, {"Second press"}),
        ("direct", {"is_pretreated": False}, {"Pretreat", "Dry"}),
    ],
)
def test_a_day_leaves_out_what_the_pieces_do_not_get(process, lacks, gone):
    """And the hands of it: a colour-only print of the two-pass press was charged the second feed and the swap."""
    shop = shipped_shop()
    whole = Order("o", process, 60.0, 20)
    less = replace(whole, **lacks)
    names = [{stage.name for stage in shop.route(process, order.gets)} for order in (whole, less)]
    assert names[0] - names[1] == gone
    days = [simulate(shop.fixed(), [order]) for order in (whole, less)]
    busy = [sum(day.busy_s.values()) for day in days]
    assert busy[1] < busy[0]
