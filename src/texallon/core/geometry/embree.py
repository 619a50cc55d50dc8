"""The ray-tracing library, called from inside kernels without the interpreter between rays.

The `embreex` package carries Intel Embree 4 as a shared library. It is loaded once for the whole process, so that
compiled kernels find `rtcIntersect1` and `rtcOccluded1` by name (and can be kept on disk, which addresses could not);
the few calls that build scenes go through ctypes. Buffers handed to it are owned by Python and must outlive the
scene: whoever builds a scene keeps them (see `rays.py`).
"""

import ctypes
from pathlib import Path
from typing import Any

import embreex
import llvmlite.binding as llvm
from numba import types

_found = sorted((Path(embreex.__file__).parent.parent / "embreex.libs").glob("libembree4*"))
if not _found:  # a wheel that links to a system library instead
    raise ImportError("the embreex package does not carry libembree4")
library = ctypes.CDLL(str(_found[0]), mode=ctypes.RTLD_GLOBAL)
llvm.load_library_permanently(str(_found[0]))

_pointer = ctypes.c_void_p
_number = ctypes.c_uint


def _declare(name: str, result: Any, *arguments: Any) -> Any:
    function = getattr(library, name)
    function.restype = result
    function.argtypes = arguments
    return function


new_device = _declare("rtcNewDevice", _pointer, ctypes.c_char_p)
get_device_error = _declare("rtcGetDeviceError", ctypes.c_int, _pointer)
new_scene = _declare("rtcNewScene", _pointer, _pointer)
release_scene = _declare("rtcReleaseScene", None, _pointer)
commit_scene = _declare("rtcCommitScene", None, _pointer)
set_scene_flags = _declare("rtcSetSceneFlags", None, _pointer, ctypes.c_int)
set_scene_build_quality = _declare("rtcSetSceneBuildQuality", None, _pointer, ctypes.c_int)
new_geometry = _declare("rtcNewGeometry", _pointer, _pointer, ctypes.c_int)
release_geometry = _declare("rtcReleaseGeometry", None, _pointer)
commit_geometry = _declare("rtcCommitGeometry", None, _pointer)
attach_geometry = _declare("rtcAttachGeometryByID", None, _pointer, _pointer, _number)
set_geometry_mask = _declare("rtcSetGeometryMask", None, _pointer, _number)
set_instanced_scene = _declare("rtcSetGeometryInstancedScene", None, _pointer, _pointer)
set_geometry_transform = _declare("rtcSetGeometryTransform", None, _pointer, _number, ctypes.c_int, _pointer)
set_shared_buffer = _declare(
    "rtcSetSharedGeometryBuffer",
    None,
    _pointer,
    ctypes.c_int,
    _number,
    ctypes.c_int,
    _pointer,
    ctypes.c_size_t,
    ctypes.c_size_t,
    ctypes.c_size_t,
)

GEOMETRY_TRIANGLE, GEOMETRY_SPHERE, GEOMETRY_INSTANCE, GEOMETRY_INSTANCE_ARRAY = 0, 50, 121, 122
BUFFER_INDEX, BUFFER_VERTEX, BUFFER_TRANSFORM = 0, 1, 23
FORMAT_UINT3, FORMAT_FLOAT3, FORMAT_FLOAT4, FORMAT_FLOAT3X4_ROW_MAJOR = 0x5003, 0x9003, 0x9004, 0x9134
SCENE_FLAG_ROBUST = 1 << 2
QUALITY_MEDIUM = 1
NO_HIT = 0xFFFFFFFF

RAY_HIT_BYTES = 96
"""sizeof(RTCRayHit) rounded up to its alignment of 16: 12 words of ray, 9 words of hit."""

intersect_one: Any = types.ExternalFunction("rtcIntersect1", types.void(types.intp, types.intp, types.intp))
"""`rtcIntersect1(scene, rayhit, arguments)` for use inside kernels."""

occluded_one: Any = types.ExternalFunction("rtcOccluded1", types.void(types.intp, types.intp, types.intp))
"""`rtcOccluded1(scene, ray, arguments)`: sets tfar to −infinity where something is in the way."""

point_query: Any = types.ExternalFunction(
    "rtcPointQuery", types.boolean(types.intp, types.intp, types.intp, types.intp, types.intp)
)
"""`rtcPointQuery(scene, query, context, callback, user)`: gives the callback what lies within the query's radius, which it may make smaller."""
