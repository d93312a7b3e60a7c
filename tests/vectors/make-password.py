#!/usr/bin/env python3
"""Vectors of the password exchange (src/site/password.h), worked out in plain integers: SPAKE2+ (RFC 9383) over
ristretto255 (RFC 9496) with SHA-512, HKDF-SHA512 and HMAC-SHA512. Needs nothing but Python; checks its own group against
the encodings of small multiples of RFC 9496, appendix A.1. Writes password.json beside it."""
import base64
import hashlib
import hmac
import json
import pathlib
import random

P = 2**255 - 19
Q = 2**252 + 27742317777372353535851937790883648493
D = -121665 * pow(121666, P - 2, P) % P
SQRT_M1 = pow(2, (P - 1) // 4, P)


def is_negative(x):
    return x % P & 1


def absolute(x):
    return (-x if is_negative(x) else x) % P


def sqrt_ratio(u, v):  # RFC 9496, 4.2
    r = u * pow(v, 3, P) * pow(u * pow(v, 7, P), (P - 5) // 8, P) % P
    check = v * r * r % P
    right, flipped, flipped_i = check == u % P, check == -u % P, check == -u * SQRT_M1 % P
    if flipped or flipped_i:
        r = r * SQRT_M1 % P
    return right or flipped, absolute(r)


INVSQRT_A_MINUS_D = sqrt_ratio(1, (-1 - D) % P)[1]
ONE_MINUS_D_SQ = (1 - D * D) % P
D_MINUS_ONE_SQ = (D - 1) ** 2 % P
SQRT_AD_MINUS_ONE = next(r for r in [sqrt_ratio((-D - 1) % P, 1)[1]] for r in [r, -r % P]
                         if r == 25063068953384623474111414158702152701244531502492656460079210482610430750235)


def add(a, b):  # extended coordinates of the curve -x² + y² = 1 + d x² y² (RFC 8032, 5.1.4)
    x1, y1, z1, t1 = a
    x2, y2, z2, t2 = b
    A, B, C, E = (y1 - x1) * (y2 - x2), (y1 + x1) * (y2 + x2), 2 * t1 * t2 * D, 2 * z1 * z2
    e, f, g, h = B - A, E - C, E + C, B + A
    return e * f % P, g * h % P, f * g % P, e * h % P


def times(k, a):
    out = (0, 1, 1, 0)
    while k:
        if k & 1:
            out = add(out, a)
        a, k = add(a, a), k >> 1
    return out


def minus(a):
    return -a[0] % P, a[1], a[2], -a[3] % P


def encode(a):  # RFC 9496, 4.3.2
    x, y, z, t = a
    u1, u2 = (z + y) * (z - y) % P, x * y % P
    invsqrt = sqrt_ratio(1, u1 * u2 * u2 % P)[1]
    den1, den2 = invsqrt * u1 % P, invsqrt * u2 % P
    zinv = den1 * den2 * t % P
    if is_negative(t * zinv):
        x, y, den = y * SQRT_M1 % P, x * SQRT_M1 % P, den1 * INVSQRT_A_MINUS_D % P
    else:
        den = den2
    if is_negative(x * zinv):
        y = -y % P
    return absolute(den * (z - y)).to_bytes(32, "little")


def elligator(t):  # RFC 9496, 4.3.4
    r = SQRT_M1 * t * t % P
    u, c = (r + 1) * ONE_MINUS_D_SQ % P, P - 1
    v = (c - r * D) * (r + D) % P
    square, s = sqrt_ratio(u, v)
    if not square:
        s, c = -absolute(s * t) % P, r
    n = (c * (r - 1) * D_MINUS_ONE_SQ - v) % P
    w0, w1, w2, w3 = 2 * s * v % P, n * SQRT_AD_MINUS_ONE % P, (1 - s * s) % P, (1 + s * s) % P
    return w0 * w3 % P, w2 * w1 % P, w1 * w3 % P, w0 * w2 % P


def from_hash(b):
    one, two = (int.from_bytes(b[i:i + 32], "little") % 2**255 % P for i in (0, 32))
    return add(elligator(one), elligator(two))


BASE_Y = 4 * pow(5, P - 2, P) % P
BASE_X = absolute(sqrt_ratio((BASE_Y * BASE_Y - 1) % P, (D * BASE_Y * BASE_Y + 1) % P)[1])
BASE = (BASE_X, BASE_Y, 1, BASE_X * BASE_Y % P)
assert encode(times(1, BASE)).hex() == "e2f2ae0a6abc4e71a884a961c500515f58e30b6aa582dd8db6a65945e08d2d76"
assert encode(times(2, BASE)).hex() == "6a493210f7499cd17fecb510ae0cea23a110e8d5b901f8acadd3095c73a3b919"
assert encode(times(0, BASE)) == bytes(32)

M, N = (from_hash(hashlib.sha512(b"Nimble Loom SPAKE2+ " + c).digest()) for c in (b"M", b"N"))


def hkdf(material, info, size):
    key, out, block = hmac.digest(bytes(64), material, "sha512"), b"", b""
    for i in range((size + 63) // 64):
        block = hmac.digest(key, block + info + bytes([i + 1]), "sha512")
        out += block
    return out[:size]


def text(b):
    return base64.b64encode(b).decode()


def number(k):
    return text(k.to_bytes(32, "little"))


def exchange(dice):
    w0, w1, x, y = (dice.randrange(1, Q) for _ in range(4))
    line, identity = dice.randbytes(32), dice.randbytes(32)
    L = times(w1, BASE)
    X, Y = add(times(x, BASE), times(w0, M)), add(times(y, BASE), times(w0, N))
    Z, V = (times(k, add(Y, minus(times(w0, N)))) for k in (x, w1))
    assert encode(Z) == encode(times(y, add(X, minus(times(w0, M))))) and encode(V) == encode(times(y, L))
    transcript = b""
    for part in (b"Nimble Loom unlock 1" + line, b"", identity, encode(M), encode(N), encode(X), encode(Y), encode(Z),
                 encode(V), w0.to_bytes(32, "little")):
        transcript += len(part).to_bytes(8, "little") + part
    keys = hkdf(hashlib.sha512(transcript).digest(), b"ConfirmationKeys", 128)
    return {"w0": number(w0), "w1": number(w1), "x": number(x), "y": number(y), "line": text(line),
            "identity": text(identity), "l": text(encode(L)), "shareAsker": text(encode(X)),
            "shareDevice": text(encode(Y)), "confirmAsker": text(hmac.digest(keys[:64], encode(Y), "sha512")),
            "confirmDevice": text(hmac.digest(keys[64:], encode(X), "sha512"))}


if __name__ == "__main__":
    dice = random.Random(20261128)
    path = pathlib.Path(__file__).with_name("password.json")
    path.write_text(json.dumps([exchange(dice) for _ in range(8)], indent=1) + "\n")
