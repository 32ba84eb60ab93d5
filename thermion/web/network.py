"""What this computer is called, and where other devices find it; nothing is sent to find out."""

from __future__ import annotations

import socket
from ipaddress import ip_address
from urllib.parse import urlsplit

EVERY = ("0.0.0.0", "::", "")  # noqa: S104 - compared, not bound


def is_this_computer(name: str) -> bool:
    """Whether an address or name can only be reached from this computer."""
    if name == "localhost":
        return True
    try:
        return ip_address(name.strip("[]")).is_loopback
    except ValueError:
        return False


def is_address(name: str) -> bool:
    try:
        ip_address(name)
    except ValueError:
        return False
    return True


def host_of(name: str) -> str:
    """The name in what a browser sent as Host or Origin, without its port; "" for none."""
    return urlsplit(name if "//" in name else f"//{name}").hostname or ""


def own_names() -> list[str]:
    """What this computer is called in its network."""
    name = socket.gethostname().lower()
    return sorted({"localhost", name, f"{name.split('.')[0]}.local", socket.getfqdn().lower()})


def own_addresses(host: str) -> list[str]:
    """Addresses at which other devices find a server on `host`."""
    if host not in EVERY:
        return [host]
    found = []
    for family, far in ((socket.AF_INET, "192.0.2.1"), (socket.AF_INET6, "2001:db8::1")):
        if family == socket.AF_INET6 and host != "::":
            continue
        try:
            with socket.socket(family, socket.SOCK_DGRAM) as asked:
                asked.connect((far, 9))
                found.append(asked.getsockname()[0])
        except OSError:  # not in such a network
            continue
    return found or [socket.gethostname()]


def own_urls(host: str, port: int) -> list[str]:
    """Where other devices open it."""
    return [f"http://{f'[{a}]' if ':' in a else a}:{port}" for a in own_addresses(host)]
