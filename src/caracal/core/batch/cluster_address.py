"""Where a cluster is, and by what it is trusted: another machine is reached by TLS only.

Pictures and the master's place travel to the workers, and what they answer is joined into files:
whoever can speak to an open scheduler can run anything. So a scheduler on another machine needs
certificates (``distributed``'s TLS), unless a person says that its network is their own.
"""

from __future__ import annotations

import ipaddress
from pathlib import Path
from urllib.parse import urlsplit

import msgspec

from caracal.core.base.errors import InputError
from caracal.core.base.translation import tr


class Cluster(msgspec.Struct, frozen=True):
    """The address of a Dask scheduler, such as ``tls://machine:8786``, and the files by which both
    sides know each other: the authority's certificate, ours, and its key (PEM)."""

    address: str
    ca_file: str = ""
    cert_file: str = ""
    key_file: str = ""
    insecure: bool = False

    @property
    def local(self) -> bool:
        """Whether the scheduler is on this machine."""
        try:
            host = urlsplit(self.address).hostname or ""
            return host == "localhost" or ipaddress.ip_address(host).is_loopback
        except ValueError:
            return False

    @property
    def files(self) -> tuple[Path, ...]:
        """The certificates and the key that were named."""
        return tuple(Path(name) for name in (self.ca_file, self.cert_file, self.key_file) if name)

    def check(self) -> None:
        """Raise InputError when it cannot be trusted as it is given."""
        try:
            parts = urlsplit(self.address if "://" in self.address else f"//{self.address}")
            named = bool(parts.hostname and parts.port) and parts.scheme in ("tcp", "tls")
        except ValueError:
            named = False
        if not named:
            raise InputError(tr("“{address}” is not the address of a scheduler.",
                                address=self.address),
                             remedy=tr("Write it as tls://machine:8786, or tcp:// on this "
                                       "machine."))
        gone = next((file for file in self.files if not file.is_file()), None)
        if gone is not None:
            raise InputError(tr("There is no such certificate or key."), gone,
                             tr("Check the name."))
        if self.address.startswith("tls://") and len(self.files) < 3:
            raise InputError(tr("TLS needs three files: the authority's certificate, yours, and "
                                "its key."),
                             remedy=tr("Give the authority's certificate, your certificate and "
                                       "its key."))
        if not (self.local or self.address.startswith("tls://") or self.insecure):
            raise InputError(tr("{address} is another machine, and the connection is not "
                                "encrypted.", address=self.address),
                             remedy=tr("Use tls:// with certificates, or say that the network is "
                                       "your own (--insecure)."))
