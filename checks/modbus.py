"""Reads the rig with pymodbus, an independent Modbus client, and prints what it saw.

    python3 checks/modbus.py PATH-TO-zero-leak > checks/modbus.snapshot.txt

The scenario is the example of docs/formats; its first reading follows from the seed alone. The snapshot names the package's version and the
SHA-256 of the scenario and of the description of the registers, so that `cargo xtask check` can tell when it is stale.
"""
import hashlib
import subprocess
import sys
from pathlib import Path

import pymodbus
from pymodbus.client import ModbusTcpClient

root = Path(__file__).resolve().parent.parent
scenario = root / "docs/formats/examples/pump-house.rig.json"


def digest(path):
    return hashlib.sha256(path.read_bytes()).hexdigest()


print(f"pymodbus {pymodbus.__version__}")
for name in ["checks/modbus.py", "docs/formats/examples/pump-house.rig.json", "docs/formats/rig-registers.md"]:
    print(f"sha256 {name} {digest(root / name)}")

# as slow as it goes: the first step does not come while this reads
rig = subprocess.Popen([sys.argv[1], "rig", str(scenario), "--port", "0", "--speed", "0.01"], stdout=subprocess.PIPE, text=True)
try:
    port = int(rig.stdout.readline().split(":")[1])
    client = ModbusTcpClient("127.0.0.1", port=port)
    assert client.connect()
    kind = client.DATATYPE

    def value(unit, register, datatype, word_order="big", function=client.read_input_registers):
        count = datatype.value[1]
        answer = function(register, count=count, device_id=unit)
        assert not answer.isError(), answer
        return client.convert_from_registers(answer.registers, datatype, word_order=word_order)

    print(f"PT-71 f32 {value(10, 0, kind.FLOAT32):.3f} bar")
    print(f"PT-71 holding {value(10, 0, kind.FLOAT32, function=client.read_holding_registers):.3f} bar")
    print(f"PT-72 i16 {value(11, 4, kind.INT16)} hundredths of a bar")
    print(f"TT-71 f32 low word first {value(20, 0, kind.FLOAT32, word_order='little'):.2f} °C")
    print(f"TA-71 i16 {value(21, 0, kind.INT16)} tenths °C")
    print(f"SC-71 u32 {value(30, 0, kind.UINT32)} strokes")
    print(f"rig water {value(1, 4, kind.FLOAT32):.2f} °C, leak {value(1, 6, kind.FLOAT32):.3f} L/h")
    print(f"write pump rate: {client.write_register(1, 120, device_id=1).registers}, read {value(1, 1, kind.UINT16, function=client.read_holding_registers)}")
    for unit, register in [(99, 0), (10, 50), (1, 100)]:
        print(f"unit {unit} register {register}: exception {client.read_input_registers(register, count=2, device_id=unit).exception_code}")
    client.close()
finally:
    rig.terminate()
    rig.wait()
