"""What a process that reads a stranger's file may do: little, and not for long (Linux)."""

from __future__ import annotations

import ctypes
import os
import platform
import resource
import struct
import sys
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

#: System calls of Landlock (include/uapi/linux/landlock.h), and prctl's numbers.
_CREATE_RULESET, _ADD_RULE, _RESTRICT_SELF, _PATH_BENEATH = 444, 445, 446, 1
_NO_NEW_PRIVS, _SECCOMP, _FILTER, _DEATH_SIGNAL = 38, 22, 2, 1
_KILL = 9
#: Rights of the first Landlock: execute, write, read, read a folder, and ten to make and remove.
_EXECUTE, _WRITE, _READ, _READ_FOLDER, _ALL = 1, 2, 4, 8, (1 << 13) - 1
_LOOK = _EXECUTE | _READ | _READ_FOLDER
#: The call that makes a socket, by machine.
_SOCKET = {"x86_64": 41, "aarch64": 198}
#: What programs and libraries need to see of a system.
_SYSTEM = (
    "/usr", "/lib", "/lib64", "/bin", "/etc", "/proc", "/sys/devices/system", "/opt",
    "/var/cache/fontconfig", "/var/lib/ghostscript",
)  # fmt: skip
_DEVICES = ("/dev/null", "/dev/zero", "/dev/urandom", "/dev/random")
_OWN_FONTS = (".fonts", ".local/share/fonts")
#: Bytes of a small file, and seconds that the reading of one may take; larger ones may take more.
SMALL, SMALL_SECONDS = 10_000_000, 10.0


@dataclass(frozen=True)
class Limits:
    """Of one reading.

    Attributes
    ----------
    seconds : that it may take, on a machine that does nothing else
    memory : bytes that it may take, besides what it has at its start
    """

    seconds: float
    memory: int


def confine(limits: Limits, reads: Iterable[Path], writes: Path | None) -> None:
    """Bind this process, and all that it starts, for good.

    It may see the system's programs and libraries and these files, write into one folder, take so
    much memory, and make no connection. Where the kernel knows no Landlock (before 5.13) or no
    filters, the other limits hold.

    Parameters
    ----------
    limits : of memory and time
    reads : files that may be read
    writes : the folder that may be written into; None for nowhere
    """
    libc = ctypes.CDLL(None, use_errno=True)
    libc.prctl(_DEATH_SIGNAL, _KILL, 0, 0, 0)
    most = _private_bytes() + limits.memory
    resource.setrlimit(resource.RLIMIT_DATA, (most, most))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    libc.prctl(_NO_NEW_PRIVS, 1, 0, 0, 0)
    _see_only(libc, reads, writes)
    _make_no_socket(libc)


def _private_bytes() -> int:
    """What this process has of its own in memory now (proc(5), VmData)."""
    for line in Path("/proc/self/status").read_text().splitlines():
        if line.startswith("VmData:"):
            return int(line.split()[1]) * 1024
    return 0


def _see_only(libc: ctypes.CDLL, reads: Iterable[Path], writes: Path | None) -> None:
    handled = struct.pack("Q", _ALL)
    ruleset = libc.syscall(_CREATE_RULESET, handled, len(handled), 0)
    if ruleset < 0:
        return
    home = Path.home()
    seen = [*_SYSTEM, sys.prefix, sys.base_prefix, str(Path(__file__).parents[2])]
    seen += [str(home / fonts) for fonts in _OWN_FONTS]
    for path in seen:
        _allow(libc, ruleset, path, _LOOK)
    for path in _DEVICES:
        _allow(libc, ruleset, path, _READ | _WRITE)
    for file in reads:
        _allow(libc, ruleset, str(file), _READ)
    if writes is not None:
        _allow(libc, ruleset, str(writes), _ALL & ~_EXECUTE)
    libc.syscall(_RESTRICT_SELF, ruleset, 0)
    os.close(ruleset)


def _allow(libc: ctypes.CDLL, ruleset: int, path: str, rights: int) -> None:
    try:
        handle = os.open(path, os.O_PATH | os.O_CLOEXEC)
    except OSError:
        # What is not there need not be seen.
        return
    try:
        # struct landlock_path_beneath_attr, packed: rights, then the file.
        libc.syscall(_ADD_RULE, ruleset, _PATH_BENEATH, struct.pack("=Qi", rights, handle), 0)
    finally:
        os.close(handle)


class _Step(ctypes.Structure):
    _fields_ = (
        ("code", ctypes.c_ushort), ("then", ctypes.c_ubyte), ("otherwise", ctypes.c_ubyte),
        ("value", ctypes.c_uint),
    )  # fmt: skip


class _Program(ctypes.Structure):
    _fields_ = (("length", ctypes.c_ushort), ("steps", ctypes.POINTER(_Step)))


def _make_no_socket(libc: ctypes.CDLL) -> None:
    """A filter of system calls (linux/seccomp.h) that refuses sockets and lets all else pass."""
    number = _SOCKET.get(platform.machine())
    if number is None:
        return
    load, same, give = 0x20, 0x15, 0x06
    refused, allowed = 0x00050000 | 13, 0x7FFF0000
    steps = (_Step * 4)(
        _Step(load, 0, 0, 0), _Step(same, 0, 1, number), _Step(give, 0, 0, refused),
        _Step(give, 0, 0, allowed),
    )  # fmt: skip
    program = _Program(len(steps), steps)
    libc.prctl(_SECCOMP, _FILTER, ctypes.byref(program), 0, 0)
