#include "site/pin.h"
#include <sodium.h>

namespace loom::site {

namespace {

bool isDigits(const std::string& pin) {
    return pin.size() >= 4 && pin.size() <= 12 && pin.find_first_not_of("0123456789") == std::string::npos;
}

} // namespace

// A PIN is short: what holds strangers up are the waits after wrong ones. The work is kept small, for the same thread
// carries the values of everybody else.
Result<std::string> pinPrint(const std::string& pin) {
    if (!isDigits(pin))
        return Error{"a PIN has 4 to 12 digits", "PIN", "Type digits only."};
    char text[crypto_pwhash_STRBYTES];
    if (sodium_init() < 0 || crypto_pwhash_str(text, pin.data(), pin.size(), crypto_pwhash_OPSLIMIT_MIN,
                                               crypto_pwhash_MEMLIMIT_MIN * 128) != 0)
        return Error{"there is not enough memory to keep a PIN", "PIN", "Try again."};
    return std::string(text);
}

bool isPin(const std::string& print, const std::string& pin) {
    return isDigits(pin) && sodium_init() >= 0 && crypto_pwhash_str_verify(print.c_str(), pin.data(), pin.size()) == 0;
}

} // namespace loom::site
