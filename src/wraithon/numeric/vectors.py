"""Vectors as numba values: eight (or four) numbers that kernels work on at once.

Each function here is one vector operation of LLVM, which lowers it to whatever the processor has; nothing is
written for one kind. `VectorType` of kind "f" hold 32-bit floats, "x" exact ones, "i" 32-bit whole numbers,
"b" yes or
no. Arithmetic of floats may be regrouped and fused as in `compiled.drawing_kernel`; that of exact ones may not, and
gives the same bits on every machine.
"""

from __future__ import annotations

import operator
from typing import Any

from llvmlite import ir
from numba import extending
from numba.core import cgutils, types
from numba.core.imputils import impl_ret_untracked
from numba.core.typing.templates import AbstractTemplate, infer_global, signature

FLOAT, WHOLE, BIT, PLACE = ir.FloatType(), ir.IntType(32), ir.IntType(1), ir.IntType(64)
LOOSE = ("contract", "nsz", "arcp", "reassoc", "afn")
intrinsic: Any = extending.intrinsic  # whose types are those of a Python call, which this is none of
KINDS = {"f": FLOAT, "x": FLOAT, "i": WHOLE, "b": BIT}


class VectorType(types.Type):
    """The type of `count` numbers of a kind."""

    def __init__(self, count: int, kind: str) -> None:
        self.count, self.kind = count, kind
        super().__init__(f"lanes{count}{kind}")

    @property
    def llvm(self) -> Any:
        """The vector type of LLVM."""
        return ir.VectorType(KINDS[self.kind], self.count)

    def of(self, kind: str) -> VectorType:
        """Return the type of as many numbers of another kind."""
        return VectorType(self.count, kind)


@extending.register_model(VectorType)
class _Model(extending.models.PrimitiveModel):
    def __init__(self, manager: Any, lanes: VectorType) -> None:
        super().__init__(manager, lanes, lanes.llvm)


def _spread(builder: Any, vector: Any, value: Any) -> Any:
    one = builder.insert_element(ir.Constant(vector, ir.Undefined), value, ir.Constant(WHOLE, 0))
    positions = ir.Constant(ir.VectorType(WHOLE, vector.count), [0] * vector.count)
    return builder.shuffle_vector(one, ir.Constant(vector, ir.Undefined), positions)


def _call(builder: Any, name: str, result: Any, arguments: Any) -> Any:
    kind = ir.FunctionType(result, [each.type for each in arguments])
    return builder.call(cgutils.get_or_insert_function(builder.module, kind, name), arguments)


def _operator(symbol: Any, kinds: dict[str, str]) -> None:
    """Let `symbol` stand for the operations of `kinds`: kind of lanes to the builder's method."""

    @infer_global(symbol)
    class _Between(AbstractTemplate):
        def generic(self, arguments: Any, _keywords: Any) -> Any:
            one = arguments[0]
            if len(arguments) == 2 and one == arguments[1] and isinstance(one, VectorType) and one.kind in kinds:
                return signature(one, *arguments)
            return None

    def lower(context: Any, builder: Any, sig: Any, values: Any) -> Any:
        loose = {"flags": LOOSE} if sig.args[0].kind == "f" else {}
        result = getattr(builder, kinds[sig.args[0].kind])(*values, **loose)
        return impl_ret_untracked(context, builder, sig.return_type, result)

    extending.lower_builtin(symbol, VectorType, VectorType)(lower)


_operator(operator.add, {"f": "fadd", "x": "fadd", "i": "add"})
_operator(operator.sub, {"f": "fsub", "x": "fsub", "i": "sub"})
_operator(operator.mul, {"f": "fmul", "x": "fmul", "i": "mul"})
_operator(operator.truediv, {"f": "fdiv", "x": "fdiv"})
_operator(operator.and_, {"i": "and_", "b": "and_"})
_operator(operator.or_, {"i": "or_", "b": "or_"})
_operator(operator.xor, {"i": "xor", "b": "xor"})


def _spreading(count: int, kind: str) -> Any:
    def spread(_context: Any, _value: Any) -> Any:
        """Return lanes that all hold one float."""
        lanes = VectorType(count, kind)
        return lanes(types.float32), lambda _c, builder, _s, values: _spread(builder, lanes.llvm, values[0])

    return intrinsic(spread)


spread8, spread4, exact8 = _spreading(8, "f"), _spreading(4, "f"), _spreading(8, "x")


@intrinsic
def alike(_context: Any, lanes: Any, _value: Any) -> Any:
    """Return as many lanes as `lanes` that all hold one float."""
    found = lanes.of("f")
    return found(lanes, types.float32), lambda _c, builder, _s, values: _spread(builder, found.llvm, values[1])


@intrinsic
def alike_whole(_context: Any, lanes: Any, _value: Any) -> Any:
    """Return as many lanes as `lanes` that all hold one whole number."""
    found = lanes.of("i")
    return found(lanes, types.int32), lambda _c, builder, _s, values: _spread(builder, found.llvm, values[1])


@intrinsic
def counted(_context: Any, lanes: Any) -> Any:
    """Return how many lanes there are."""
    return types.int64(lanes), lambda *_: ir.Constant(PLACE, lanes.count)


@intrinsic
def numbered(_context: Any, lanes: Any) -> Any:
    """Return 0, 1, 2 and so on, as floats, as many as `lanes`."""
    found = lanes.of("f")
    return found(lanes), lambda *_: ir.Constant(found.llvm, [float(k) for k in range(lanes.count)])


def _of_floats(name: str, arity: int) -> Any:
    """Return an intrinsic that is LLVM's own of a name."""

    def generate(_context: Any, builder: Any, sig: Any, values: Any) -> Any:
        count = sig.return_type.count
        return _call(builder, f"llvm.{name}.v{count}f32", sig.return_type.llvm, values)

    if arity == 1:

        def one(_context: Any, x: Any) -> Any:
            """Return what is asked of each lane."""
            return x(x), generate

        return intrinsic(one)

    def three(_context: Any, x: Any, y: Any, z: Any) -> Any:
        """Return x * y + z."""
        return x(x, y, z), generate

    return intrinsic(three)


fused, root, lowered = _of_floats("fmuladd", 3), _of_floats("sqrt", 1), _of_floats("floor", 1)
"""x * y + z, the square root, and the next whole number below."""


def _extreme(sign: str) -> Any:
    def extreme(_context: Any, x: Any, y: Any) -> Any:
        """Return the smaller or larger of each two; of a float that is none, the second."""

        def generate(_context: Any, builder: Any, sig: Any, values: Any) -> Any:
            compare = builder.icmp_signed if sig.return_type.kind == "i" else builder.fcmp_ordered
            return builder.select(compare(sign, *values), *values)

        return x(x, y), generate

    return intrinsic(extreme)


smaller, larger = _extreme("<"), _extreme(">")


def _extreme_of_all(sign: str) -> Any:
    def extreme(_context: Any, x: Any) -> Any:
        """Return the smallest or largest of all lanes."""

        def generate(_context: Any, builder: Any, _sig: Any, values: Any) -> Any:
            singles = [builder.extract_element(values[0], ir.Constant(WHOLE, k)) for k in range(x.count)]
            found = singles[0]
            for single in singles[1:]:
                found = builder.select(builder.fcmp_ordered(sign, single, found), single, found)
            return found

        return types.float32(x), generate

    return intrinsic(extreme)


smallest, largest = _extreme_of_all("<"), _extreme_of_all(">")


def _comparison(sign: str) -> Any:
    def compare(_context: Any, x: Any, _y: Any) -> Any:
        """Return where x stands so to y; nowhere that one is no number."""

        def generate(_context: Any, builder: Any, _sig: Any, values: Any) -> Any:
            compared = builder.icmp_signed if x.kind == "i" else builder.fcmp_ordered
            return compared(sign, *values)

        return x.of("b")(x, x), generate

    return intrinsic(compare)


greater, at_least = _comparison(">"), _comparison(">=")


@intrinsic
def chosen(_context: Any, where: Any, x: Any, y: Any) -> Any:
    """Return x where so, y elsewhere."""
    return x(where, x, y), lambda _c, builder, _s, values: builder.select(*values)


def _shuffle(order: tuple[int, ...]) -> Any:
    def shuffle(_context: Any, x: Any) -> Any:
        """Return lanes in another order."""
        positions = ir.Constant(ir.VectorType(WHOLE, len(order)), order)
        nothing = ir.Constant(x.llvm, ir.Undefined)
        return x(x), lambda _c, builder, _s, values: builder.shuffle_vector(values[0], nothing, positions)

    return intrinsic(shuffle)


twice, beside = _shuffle((1, 1, 2, 2, 3, 3, 4, 4)), _shuffle((0, 2, 1, 3, 2, 4, 3, 5))
"""Of eight lanes, the second to fifth twice each; and to each of those its two neighbours."""


def _zip(order: tuple[int, ...]) -> Any:
    def zipped(_context: Any, x: Any, _y: Any) -> Any:
        """Return some lanes of two vectors."""
        positions = ir.Constant(ir.VectorType(WHOLE, len(order)), order)
        return x(x, x), lambda _c, builder, _s, values: builder.shuffle_vector(*values, positions)

    return intrinsic(zipped)


evens, odds = _zip((0, 2, 4, 6, 8, 10, 12, 14)), _zip((1, 3, 5, 7, 9, 11, 13, 15))
"""Every second lane of two vectors of eight, one after the other."""
zipped_low, zipped_high = _zip((0, 8, 1, 9, 2, 10, 3, 11)), _zip((4, 12, 5, 13, 6, 14, 7, 15))
"""The first four lanes of two vectors of eight by turns, and the last four."""


@intrinsic
def any_of(_context: Any, where: Any) -> Any:
    """Return whether it is so anywhere."""

    def generate(_context: Any, builder: Any, _sig: Any, values: Any) -> Any:
        flat = ir.IntType(where.count)
        return builder.icmp_unsigned("!=", builder.bitcast(values[0], flat), ir.Constant(flat, 0))

    return types.boolean(where), generate


@intrinsic
def whole(_context: Any, x: Any) -> Any:
    """Return floats as whole numbers, cut towards zero; they must fit."""
    lanes = x.of("i")
    return lanes(x), lambda _c, builder, _s, values: builder.fptosi(values[0], lanes.llvm)


@intrinsic
def floats(_context: Any, x: Any) -> Any:
    """Return whole numbers as floats."""
    lanes = x.of("f")
    return lanes(x), lambda _c, builder, _s, values: builder.sitofp(values[0], lanes.llvm)


@intrinsic
def bits(_context: Any, x: Any) -> Any:
    """Return the bits of floats as whole numbers."""
    lanes = x.of("i")
    return lanes(x), lambda _c, builder, _s, values: builder.bitcast(values[0], lanes.llvm)


@intrinsic
def exactly(_context: Any, x: Any) -> Any:
    """Return the exact floats that whole numbers are the bits of."""
    lanes = x.of("x")
    return lanes(x), lambda _c, builder, _s, values: builder.bitcast(values[0], lanes.llvm)


@intrinsic
def shifted(_context: Any, x: Any, _by: Any) -> Any:
    """Return the bits of whole numbers moved down; zeros come in from above."""

    def generate(_context: Any, builder: Any, _sig: Any, values: Any) -> Any:
        return builder.lshr(values[0], _spread(builder, x.llvm, values[1]))

    return x(x, types.int32), generate


def _half(operation: str, number: int) -> Any:
    def half(_context: Any, x: Any) -> Any:
        """Return 16 bits of each as floats."""
        lanes = x.of("f")

        def generate(_context: Any, builder: Any, _sig: Any, values: Any) -> Any:
            bits16 = getattr(builder, operation)(values[0], ir.Constant(x.llvm, [number] * x.count))
            return builder.sitofp(bits16, lanes.llvm)

        return lanes(x), generate

    return intrinsic(half)


low_half, high_half = _half("and_", 0xFFFF), _half("lshr", 16)
"""The lower 16 bits, and the upper ones."""
