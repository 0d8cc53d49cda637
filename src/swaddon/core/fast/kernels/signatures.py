"""Types of the kernels' arguments: contiguous arrays, read-only in, writeable out."""

from numba import types

OPTIONS = {"nogil": True, "cache": True, "error_model": "numpy"}


def reads(dtype, dimensions):
    return types.Array(dtype, dimensions, "C", readonly=True)


def writes(dtype, dimensions):
    return types.Array(dtype, dimensions, "C")


u8, u16, u32, i32, i64 = types.uint8, types.uint16, types.uint32, types.int32, types.int64
f32, f64, flag = types.float32, types.float64, types.boolean
image, plane = reads(u8, 3), reads(u8, 2)
image_out, plane_out = writes(u8, 3), writes(u8, 2)
