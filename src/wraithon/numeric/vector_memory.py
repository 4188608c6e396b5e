"""Reading and writing vectors (see `vectors`): arrays at flat places, in a row or here and there.

No place is checked: whoever calls stays inside.
"""

from __future__ import annotations

from typing import Any

from llvmlite import ir
from numba.core import cgutils, types

from wraithon.numeric.vectors import PLACE, WHOLE, intrinsic


def _at(context: Any, builder: Any, array: Any, values: Any, pointed: Any) -> Any:
    """Return a pointer to the place `values[1]` of the array `values[0]`."""
    data = context.make_array(array)(context, builder, values[0]).data
    return builder.bitcast(builder.gep(data, [values[1]]), pointed.as_pointer())


def _reading(kind: str) -> Any:
    def read(_context: Any, like: Any, array: Any, _place: Any) -> Any:
        """Return what stands in an array from a flat place on, as many as `like` has lanes."""
        lanes = like.of(kind)

        def generate(context: Any, builder: Any, sig: Any, values: Any) -> Any:
            at = _at(context, builder, sig.args[1], values[1:], lanes.llvm)
            loaded = builder.load(at)
            loaded.align = 4
            return loaded

        return lanes(like, array, types.uint64), generate

    return intrinsic(read)


read, read_exact, read_whole = _reading("f"), _reading("x"), _reading("i")


@intrinsic
def write(_context: Any, array: Any, _place: Any, lanes: Any) -> Any:
    """Write lanes into an array from a flat place on."""

    def generate(context: Any, builder: Any, sig: Any, values: Any) -> Any:
        stored = builder.store(values[2], _at(context, builder, sig.args[0], values, lanes.llvm))
        stored.align = 4
        return context.get_dummy_value()

    return types.void(array, types.uint64, lanes), generate


def _gathered(builder: Any, data: Any, positions: Any, count: int) -> Any:
    # One load a lane: the gather instructions of many processors take twice as long. The places go through
    # memory, too, since taking lanes out of a vector one by one keeps the unit busy that puts the found ones in;
    # the empty assembly keeps the compiler from taking them out all the same.
    base = builder.bitcast(data, WHOLE.as_pointer())
    slot = cgutils.alloca_once(builder, positions.type)
    builder.store(positions, slot)
    hidden = builder.asm(ir.FunctionType(slot.type, [slot.type]), "", "=r,0", [slot], side_effect=False)
    singles = builder.bitcast(hidden, WHOLE.as_pointer())
    result = ir.Constant(ir.VectorType(WHOLE, count), ir.Undefined)
    for k in range(count):
        position = builder.zext(builder.load(builder.gep(singles, [ir.Constant(WHOLE, k)])), PLACE)
        found = builder.load(builder.gep(base, [position]))
        result = builder.insert_element(result, found, ir.Constant(WHOLE, k))
    return result


@intrinsic
def fetch(_context: Any, array: Any, positions: Any) -> Any:
    """Return the whole numbers, 32 bits each, at several places (not negative) of an array."""

    def generate(context: Any, builder: Any, sig: Any, values: Any) -> Any:
        data = context.make_array(sig.args[0])(context, builder, values[0]).data
        return _gathered(builder, data, values[1], positions.count)

    return positions(array, positions), generate


@intrinsic
def fetch_floats(_context: Any, array: Any, positions: Any) -> Any:
    """Return the floats at several places (not negative) of an array."""
    lanes = positions.of("f")

    def generate(context: Any, builder: Any, sig: Any, values: Any) -> Any:
        data = context.make_array(sig.args[0])(context, builder, values[0]).data
        return builder.bitcast(_gathered(builder, data, values[1], positions.count), lanes.llvm)

    return lanes(array, positions), generate


@intrinsic
def pointed(_context: Any, _address: Any) -> Any:
    """Return a place of memory, given as a whole number, as `carray` takes it."""

    def generate(_context: Any, builder: Any, _sig: Any, values: Any) -> Any:
        return builder.inttoptr(values[0], cgutils.voidptr_t)

    return types.voidptr(types.uint64), generate


@intrinsic
def prefetch(_context: Any, array: Any, _place: Any) -> Any:
    """Ask for the memory at a flat place of an array, which will be read soon."""

    def generate(context: Any, builder: Any, sig: Any, values: Any) -> Any:
        pointer = _at(context, builder, sig.args[0], values, ir.IntType(8))
        kind = ir.FunctionType(ir.VoidType(), [pointer.type, WHOLE, WHOLE, WHOLE])
        ask = cgutils.get_or_insert_function(builder.module, kind, "llvm.prefetch.p0")
        builder.call(ask, [pointer, ir.Constant(WHOLE, 0), ir.Constant(WHOLE, 3), ir.Constant(WHOLE, 1)])
        return context.get_dummy_value()

    return types.void(array, types.uint64), generate
