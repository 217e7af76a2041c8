"""A host of the machine's protocol (docs/machine-protocol.md), written from its description alone: Python's own CRC-32,
its own sockets. For tests of the stand-in that share nothing with the runner."""
import re
import socket
import subprocess
import tempfile
import time
import zlib


def sealed(payload):
    data = payload.encode()
    return data + b" *%08x\n" % zlib.crc32(data)


def unsealed(line):
    match = re.fullmatch(rb"(.*) \*([0-9a-f]{8})", line, re.S)
    if not match or zlib.crc32(match.group(1)) != int(match.group(2), 16):
        raise ValueError(f"a damaged line: {line!r}")
    return match.group(1).decode()


class Machine:
    """A running wren-machine, ended with the block."""

    def __init__(self, binary, *options):
        self.ports = tempfile.NamedTemporaryFile("r", suffix=".port")
        self.process = subprocess.Popen([binary, "--port", "0", "--port-file", self.ports.name, *map(str, options)],
                                        stdout=subprocess.PIPE, text=True)
        self.said = [self.process.stdout.readline()]
        if "--terminal" in options:
            self.said.append(self.process.stdout.readline())
        for _ in range(500):
            self.ports.seek(0)
            text = self.ports.read().strip()
            if text:
                break
            time.sleep(0.01)
        self.port = int(text)

    def __enter__(self):
        return self

    def __exit__(self, *_):
        self.process.terminate()
        self.process.wait(10)


class Host:
    def __init__(self, port, name="test", look=False):
        self.socket = socket.create_connection(("127.0.0.1", port), 10)
        self.socket.settimeout(20)
        self.kept = b""
        self.k = 0
        self.status = {}
        self.send(f"hello 1 {name}" + (" look" if look else ""))
        self.welcome = self.next()

    def close(self):
        self.socket.close()

    def raw(self, data):
        self.socket.sendall(data)

    def send(self, payload):
        self.raw(sealed(payload))

    def line(self):
        while b"\n" not in self.kept:
            more = self.socket.recv(65536)
            if not more:
                raise ConnectionError("the machine closed the connection")
            self.kept += more
        line, self.kept = self.kept.split(b"\n", 1)
        return unsealed(line)

    def next(self):
        """The next line that is no status; states are kept."""
        while True:
            line = self.line()
            if not line.startswith("st "):
                return line
            self.take(line)

    def take(self, line):
        f = line.split(" ")
        names = ["boot", "state", "known", "program", "accepted", "done", "x", "y", "z", "zx", "zy", "zz", "speed", "rpm",
                 "feed", "spindle", "tool", "wanted", "clock", "hits"]
        self.status = dict(zip(names, f[1:21]), why=" ".join(f[21:]))
        for key in ("accepted", "done", "tool", "wanted", "hits"):
            self.status[key] = int(self.status[key])
        for key in ("x", "y", "z", "zx", "zy", "zz", "clock", "feed"):
            self.status[key] = float(self.status[key])

    def look(self):
        self.send("st?")
        while True:
            line = self.line()
            if line.startswith("st "):
                self.take(line)
                return self.status

    def do(self, command, good=True):
        self.k += 1
        self.send(f"do {self.k} {command}")
        answer = self.next()
        while answer.split(" ")[0] not in ("did", "not", "no"):
            answer = self.next()
        word, _, rest = answer.partition(" ")
        if good and word != "did":
            raise AssertionError(f"{command}: {answer}")
        return rest.partition(" ")[2] if word == "did" else answer

    def until(self, *states, seconds=30):
        end = time.time() + seconds
        while time.time() < end:
            if self.look()["state"] in states:
                return self.status
            time.sleep(0.005)
        raise AssertionError(f"still {self.status}, wanted {states}")

    def home(self):
        self.do("home")
        return self.until("idle", "alarm")

    def run(self, name, lines, window=256, begin=True):
        """Sends a program, resending where it is asked to; what the machine refused, or nothing."""
        if begin:
            self.do(f"job {name} {len(lines)}")
        sent = acked = 0
        while acked < len(lines):
            while sent < len(lines) and sent - acked < window:
                self.send(f"L {sent + 1} {lines[sent]}")
                sent += 1
            kind, _, rest = self.next().partition(" ")
            if kind == "ack":
                acked = max(acked, int(rest))
            elif kind == "again":
                sent = int(rest.split(" ")[0]) - 1
            elif kind == "bad":
                return rest
        return ""
