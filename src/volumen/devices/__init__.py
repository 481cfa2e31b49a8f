"""Small stand-ins for the devices that artwork is made for: a press, a cutter, a garment printer, a scanner.

They are honest about being stand-ins: each module says what it leaves out.
"""
