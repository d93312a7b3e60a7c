#!/usr/bin/python3
"""Writes the PDFs beside it with reportlab (Debian's python3-reportlab): two sheets of one maker, a scan, an encrypted one."""
from reportlab.lib.pagesizes import A4
from reportlab.lib.pdfencrypt import StandardEncryption
from reportlab.pdfgen import canvas

def sheet(name, title, rows, **more):
    c = canvas.Canvas(name, pagesize=A4, invariant=1, **more)
    c.setFont("Helvetica-Bold", 16)
    c.drawString(60, 780, title)
    c.setFont("Helvetica", 10)
    c.drawString(60, 762, "Manufacturer: Sedge & Rush")
    y = 730
    for row in rows:
        for x, cell in zip((60, 230, 390), row):
            c.drawString(x, y, cell)
        y -= 16
    c.showPage()
    c.save()

def rows(hp, cross, low, high, bells, trim, late):
    return [("Parameter", "LF", "HF"),
            ("High-pass", f"{hp} Hz BW 24 dB/oct", f"{cross} kHz LR 24 dB/oct"),
            ("Low-pass", f"{cross} kHz LR 24 dB/oct", "off"),
            ("EQ 1", bells[0], bells[1]),
            ("EQ 2", bells[2], "not used"),
            ("Padding", "0 dB", trim),
            ("Delay", f"{late} ms", "0 ms"),
            ("Polarity", "normal", "inverted"),
            ("Impedance", "8 ohms", "16 ohms"),
            ("Noise power (AES)", f"{low} W", f"{high} W"),
            ("Sensitivity", "96 dB", "108 dB"),
            ("Peak limit", "92 V", "51 V")]

sheet("teasel-10.pdf", "Teasel 10", rows(52, "1.4", 250, 50, ("80 Hz +2.0 dB 1.4", "2.2 kHz -3.0 dB 1.1", "350 Hz -1.5 dB 2.0"), "-6.5 dB", "0.21"))
sheet("teasel-12.pdf", "Teasel 12", rows(46, "1.2", 350, 60, ("65 Hz +2.5 dB 1.6", "1.9 kHz -2.0 dB 0.9", "290 Hz -2.5 dB 1.2"), "-8.0 dB", "0.30"))
sheet("locked.pdf", "Teasel 10", rows(52, "1.4", 250, 50, ("80 Hz +2.0 dB 1.4", "2.2 kHz -3.0 dB 1.1", "350 Hz -1.5 dB 2.0"), "-6.5 dB", "0.21"),
      encrypt=StandardEncryption("secret", ownerPassword="own", canPrint=0))
c = canvas.Canvas("scan.pdf", pagesize=A4, invariant=1)
c.rect(60, 700, 300, 60, fill=1)
c.showPage()
c.save()
