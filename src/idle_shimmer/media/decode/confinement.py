"""Confines a process that decodes an untrusted file: what it may use, read and ask the kernel for.

Three layers, each used where the system has it: limits of the process (every Unix), a filter of system
calls (seccomp, Linux) and rules about files (Landlock, Linux 5.13 and later). The last lets it read one
file and the installed programs, nothing else. Sources: seccomp(2), landlock(7).
"""

import ctypes
import os
import resource
import struct
import sys
from collections.abc import Iterable
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

# The numbers are the same on every architecture.
_CREATE_RULESET, _ADD_RULE, _RESTRICT_SELF = 444, 445, 446
_PATH_BENEATH, _VERSION_FLAG = 1, 1
_READ_FILE, _READ_DIR = 1 << 2, 1 << 3
# Every right on files that each version of Landlock knows: the first 13, then one more each.
_FILE_RIGHTS = {1: (1 << 13) - 1, 2: (1 << 14) - 1, 3: (1 << 15) - 1, 5: (1 << 16) - 1}
_TCP_RIGHTS, _SCOPES = 0b11, 0b11
_PR_SET_NO_NEW_PRIVS = 38
_CLONE_THREAD = 0x00010000
_EPERM, _ENOSYS = 1, 38
_OPEN_FILES = 64
_WRITING = os.O_WRONLY | os.O_RDWR
_DENIED = [
    "socket",
    "socketpair",
    "connect",
    "bind",
    "listen",
    "accept",
    "accept4",
    "execve",
    "execveat",
    "fork",
    "vfork",
    "ptrace",
    "process_vm_readv",
    "process_vm_writev",
    "kill",
    "pidfd_open",
    "pidfd_getfd",
    "pidfd_send_signal",
    "unshare",
    "setns",
    "mount",
    "umount2",
    "bpf",
    "keyctl",
    "add_key",
    "request_key",
    "perf_event_open",
    "userfaultfd",
    "open_by_handle_at",
    "creat",
    "unlink",
    "unlinkat",
    "rename",
    "renameat",
    "renameat2",
    "mkdir",
    "mkdirat",
    "rmdir",
    "link",
    "linkat",
    "symlink",
    "symlinkat",
    "truncate",
    "chmod",
    "fchmodat",
    "chown",
    "fchownat",
    "mknod",
    "mknodat",
]
# The C library and Python fall back to older calls, whose arguments can be examined.
_MISSING = ("clone3", "openat2", "io_uring_setup")


@dataclass(frozen=True)
class Confinement:
    """Which of the layers hold in this process."""

    limits: bool
    system_calls: bool
    files: bool


def confine(readable: Iterable[Path], memory_bytes: int) -> Confinement:
    """Confine this process for good: it may read ``readable`` and installed programs, and write nothing."""
    os.chdir("/")
    _set_limits(memory_bytes)
    # Without it neither of the other layers is permitted to ordinary users.
    _libc().prctl(_PR_SET_NO_NEW_PRIVS, 1, 0, 0, 0)
    return Confinement(True, files=_restrict_files(readable), system_calls=_filter_system_calls())


def available() -> Confinement:
    """Return which layers this system has."""
    try:
        import pyseccomp
    except (ImportError, OSError, RuntimeError):
        has_filter = False
    else:
        has_filter = int(pyseccomp.get_api()) > 0
    return Confinement(True, files=_landlock_version() > 0, system_calls=has_filter)


def _set_limits(memory_bytes: int) -> None:
    for limit, value in (
        (resource.RLIMIT_AS, memory_bytes),
        (resource.RLIMIT_CORE, 0),
        (resource.RLIMIT_FSIZE, 0),
        (resource.RLIMIT_NOFILE, _OPEN_FILES),
    ):
        resource.setrlimit(limit, (value, value))


def _filter_system_calls() -> bool:
    """Forbid network, other programs and changes of files; return whether the system can do that."""
    try:
        import pyseccomp as seccomp
    except (ImportError, OSError, RuntimeError):
        return False
    calls = seccomp.SyscallFilter(defaction=seccomp.ALLOW)
    for name in (*_DENIED, *_MISSING):
        # Some calls exist on some architectures only.
        if seccomp.resolve_syscall(seccomp.system_arch(), name) >= 0:
            calls.add_rule(seccomp.ERRNO(_ENOSYS if name in _MISSING else _EPERM), name)
    is_process = seccomp.Arg(0, seccomp.MASKED_EQ, _CLONE_THREAD, 0)
    calls.add_rule(seccomp.ERRNO(_EPERM), "clone", is_process)
    for name, place in (("open", 1), ("openat", 2)):
        if seccomp.resolve_syscall(seccomp.system_arch(), name) >= 0:
            for mode in (os.O_WRONLY, os.O_RDWR):
                writes = seccomp.Arg(place, seccomp.MASKED_EQ, _WRITING, mode)
                calls.add_rule(seccomp.ERRNO(_EPERM), name, writes)
    try:
        calls.load()
    except (OSError, RuntimeError):
        return False
    return True


def _restrict_files(readable: Iterable[Path]) -> bool:
    """Let this process read these files and installed programs only; return whether that is possible."""
    version = _landlock_version()
    if version < 1:
        return False
    handled = _FILE_RIGHTS[max(known for known in _FILE_RIGHTS if known <= version)]
    attributes = struct.pack("=QQQ", handled, _TCP_RIGHTS, _SCOPES)
    size = 8 if version < 4 else 16 if version < 6 else 24
    libc = _libc()
    rules = libc.syscall(_CREATE_RULESET, attributes, ctypes.c_size_t(size), 0)
    if rules < 0:
        return False
    try:
        for path in _programs():
            _permit(rules, path, _READ_FILE | _READ_DIR)
        for path in readable:
            _permit(rules, path, _READ_FILE)
        return bool(libc.syscall(_RESTRICT_SELF, rules, 0) == 0)
    finally:
        os.close(rules)


def _permit(rules: int, path: Path, rights: int) -> None:
    try:
        opened = os.open(path, os.O_PATH | os.O_CLOEXEC)
    except OSError:
        return
    try:
        rule = struct.pack("=Qi", rights, opened)
        _libc().syscall(_ADD_RULE, rules, _PATH_BENEATH, rule, 0)
    finally:
        os.close(opened)


def _programs() -> set[Path]:
    """Return the folders of Python, its packages, this program and the system's libraries."""
    ours = Path(__file__).resolve().parent.parent
    system = (Path("/usr"), Path("/lib"), Path("/lib64"), Path("/sys/devices/system/cpu"))
    return {Path(sys.prefix), Path(sys.base_prefix), ours, *system}


def _landlock_version() -> int:
    if not sys.platform.startswith("linux"):
        return 0
    return int(_libc().syscall(_CREATE_RULESET, None, ctypes.c_size_t(0), _VERSION_FLAG))


@lru_cache(maxsize=1)
def _libc() -> ctypes.CDLL:
    return ctypes.CDLL(None, use_errno=True)
