"""A station on another machine, as far as accounts, folders and networks go."""

import datetime
import os
import shutil
import signal
import socket
import ssl
import subprocess
import sys
import tempfile
import threading
from pathlib import Path

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import NameOID

from lantern import account
from lantern.host.setup import ROOT
from tests.ui.pages import until

NOBODY = 65534


class Door:
    """Lets in over TLS what is for a port on this machine, as a reverse proxy does.

    Of every few connections (`cuts`) one is cut when its request has arrived: before the answer,
    or in the middle of it.
    """

    def __init__(self, port, folder, cuts=0):
        self._cuts, self._count, self.cut = cuts, 0, 0
        self.certificate, key = folder / "door.pem", folder / "door.key"
        _write_certificate(self.certificate, key)
        context = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
        context.load_cert_chain(self.certificate, key)
        self._listens = context.wrap_socket(
            socket.create_server(("127.0.0.1", 0)), server_side=True, do_handshake_on_connect=False
        )
        self.address = f"https://localhost:{self._listens.getsockname()[1]}"
        self._port = port
        threading.Thread(target=self._open, daemon=True).start()

    def _open(self):
        while True:
            try:
                outside, _ = self._listens.accept()
            except OSError:
                return
            threading.Thread(target=self._let_in, args=(outside,), daemon=True).start()

    def _let_in(self, outside):
        try:
            with outside, socket.create_connection(("127.0.0.1", self._port)) as inside:
                self._count += 1
                if self._cuts and self._count % self._cuts == 0:
                    threading.Thread(target=_pass_on, args=(outside, inside), daemon=True).start()
                    answer = inside.recv(65536)
                    self.cut += 1
                    outside.sendall(answer[: len(answer) // 2 if self.cut % 2 else 0])
                    outside.shutdown(socket.SHUT_RDWR)
                    return
                back = threading.Thread(target=_pass_on, args=(inside, outside), daemon=True)
                back.start()
                _pass_on(outside, inside)
                back.join(30)
        except OSError:
            pass  # one of both went away

    def close(self):
        self._listens.close()


def _pass_on(one, other):
    try:
        while data := one.recv(65536):
            other.sendall(data)
        other.shutdown(socket.SHUT_WR)
    except OSError:
        pass


def _write_certificate(path, key_path):
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "localhost")])
    now = datetime.datetime.now(datetime.UTC)
    made = (
        x509.CertificateBuilder()
        .subject_name(name)
        .issuer_name(name)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - datetime.timedelta(days=1))
        .not_valid_after(now + datetime.timedelta(days=1))
        .add_extension(x509.SubjectAlternativeName([x509.DNSName("localhost")]), critical=False)
        .sign(key, hashes.SHA256())
    )
    text = key.private_bytes(
        serialization.Encoding.PEM,
        serialization.PrivateFormat.PKCS8,
        serialization.NoEncryption(),
    )
    key_path.write_bytes(text)
    path.write_bytes(made.public_bytes(serialization.Encoding.PEM))


class Elsewhere:
    """Starts a station that joins, in a folder of its own and, where that can be, as nobody."""

    def __init__(self, address, certificate=None):
        self.address = address
        self.folder = Path(tempfile.mkdtemp(prefix="lantern-elsewhere-", dir="/var/tmp"))
        self.folder.chmod(0o777)
        self.process = None
        self._env = {
            "PATH": os.environ["PATH"],
            "PYTHONPATH": str(ROOT / "src"),
            "HOME": str(self.folder),
            "PYTHONDONTWRITEBYTECODE": "1",
        }
        if certificate:
            trusted = self.folder / "trusted.pem"
            trusted.write_bytes(certificate.read_bytes())
            self._env["SSL_CERT_FILE"] = str(trusted)
        nobody = os.geteuid() == 0 and not account.closed()
        self._as = {"user": NOBODY, "group": NOBODY, "extra_groups": []} if nobody else {}

    def start(self, *arguments, token=""):
        log = (self.folder / "said.log").open("a")
        self.process = subprocess.Popen(
            [sys.executable, "-m", "lantern.cli", "station", "--join", self.address, *arguments],
            env=self._env | ({"LANTERN_JOIN_TOKEN": token} if token else {}),
            cwd=self.folder,
            stdin=subprocess.DEVNULL,
            stdout=log,
            stderr=log,
            start_new_session=True,
            **self._as,
        )
        log.close()
        return self

    def said(self):
        return (self.folder / "said.log").read_text()

    def is_up(self):
        until(lambda: "station_up" in self.said() or self.process.poll(), "it is up", 60)
        assert self.process.poll() is None, self.said()

    def kill(self):
        os.killpg(self.process.pid, signal.SIGKILL)
        self.process.wait(10)

    def end(self):
        if self.process and self.process.poll() is None:
            self.process.terminate()
            self.process.wait(30)
        shutil.rmtree(self.folder, ignore_errors=True)
