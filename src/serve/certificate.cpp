#include "serve/certificate.h"
#include <memory>
#include <openssl/evp.h>
#include <openssl/pem.h>
#include <openssl/rand.h>
#include <openssl/x509.h>
#include <openssl/x509v3.h>

namespace loom::serve {

namespace {

template <auto Free> struct Freed {
    template <class T> void operator()(T* t) const { Free(t); }
};
using Key = std::unique_ptr<EVP_PKEY, Freed<EVP_PKEY_free>>;
using Cert = std::unique_ptr<X509, Freed<X509_free>>;
using Bytes = std::unique_ptr<BIO, Freed<BIO_free_all>>;

constexpr long day = 24 * 60 * 60, years = 20 * 365 * day;

const Error refused{"a certificate for TLS could not be made", "certificate", "Serve without TLS."};

std::string textIn(BIO* bio) {
    char* data = nullptr;
    const long size = BIO_get_mem_data(bio, &data);
    return size > 0 ? std::string(data, static_cast<std::size_t>(size)) : std::string();
}

Cert certIn(const std::string& pem) {
    const Bytes bio(BIO_new_mem_buf(pem.data(), static_cast<int>(pem.size())));
    return Cert(bio ? PEM_read_bio_X509(bio.get(), nullptr, nullptr, nullptr) : nullptr);
}

bool isIp(const std::string& text) {
    ASN1_OCTET_STRING* ip = a2i_IPADDRESS(text.c_str());
    ASN1_OCTET_STRING_free(ip);
    return ip != nullptr;
}

// What stands in a name of a certificate or host: no sign that its syntax knows.
std::string plain(const std::string& text) {
    std::string out;
    for (const char c : text.substr(0, 60))
        out += (c >= '0' && c <= '9') || (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || c == '.' || c == '-' ||
                       c == ':'
                   ? c
                   : '-';
    return out;
}

bool add(X509* cert, int what, const std::string& value) {
    X509V3_CTX context;
    X509V3_set_ctx_nodb(&context);
    X509V3_set_ctx(&context, cert, cert, nullptr, nullptr, 0);
    X509_EXTENSION* extension = X509V3_EXT_conf_nid(nullptr, &context, what, value.c_str());
    const bool done = extension && X509_add_ext(cert, extension, -1) == 1;
    X509_EXTENSION_free(extension);
    return done;
}

} // namespace

Result<OwnCertificate> newCertificate(const std::string& name, const std::vector<std::string>& addresses) {
    const Key key(EVP_EC_gen("P-256"));
    const Cert cert(X509_new());
    std::uint64_t serial = 0;
    if (!key || !cert || RAND_bytes(reinterpret_cast<unsigned char*>(&serial), sizeof serial) != 1)
        return refused;
    X509_set_version(cert.get(), 2); // counted from 0
    ASN1_INTEGER_set_uint64(X509_get_serialNumber(cert.get()), serial >> 1 | 1);
    X509_gmtime_adj(X509_getm_notBefore(cert.get()), -day); // clocks of rooms are not always right
    X509_gmtime_adj(X509_getm_notAfter(cert.get()), years);
    X509_set_pubkey(cert.get(), key.get());
    auto* subject = X509_get_subject_name(cert.get());
    const auto called = plain(name.empty() ? "device" : name);
    X509_NAME_add_entry_by_txt(subject, "CN", MBSTRING_UTF8, reinterpret_cast<const unsigned char*>(called.c_str()), -1,
                               -1, 0);
    X509_set_issuer_name(cert.get(), subject);
    std::string names;
    for (const auto& one : addresses)
        if (!one.empty())
            names += (names.empty() ? "" : ",") + std::string(isIp(one) ? "IP:" : "DNS:") + plain(one);
    if (!add(cert.get(), NID_basic_constraints, "critical,CA:FALSE") ||
        !add(cert.get(), NID_key_usage, "critical,digitalSignature") ||
        !add(cert.get(), NID_ext_key_usage, "serverAuth") ||
        (!names.empty() && !add(cert.get(), NID_subject_alt_name, names)) ||
        X509_sign(cert.get(), key.get(), EVP_sha256()) == 0)
        return refused;
    const Bytes open(BIO_new(BIO_s_mem())), secret(BIO_new(BIO_s_mem()));
    if (!open || !secret || PEM_write_bio_X509(open.get(), cert.get()) != 1 ||
        PEM_write_bio_PrivateKey(secret.get(), key.get(), nullptr, nullptr, 0, nullptr, nullptr) != 1)
        return refused;
    return OwnCertificate{textIn(open.get()), textIn(secret.get())};
}

Result<OwnCertificate> readCertificate(const std::string& text) {
    const auto at = text.find("-----BEGIN CERTIFICATE-----");
    if (at == std::string::npos || text.size() > 16384)
        return Error{"is no certificate with its key", "certificate", ""};
    OwnCertificate c{text.substr(at), text.substr(0, at)};
    const Bytes bio(BIO_new_mem_buf(c.key.data(), static_cast<int>(c.key.size())));
    const Key key(bio ? PEM_read_bio_PrivateKey(bio.get(), nullptr, nullptr, nullptr) : nullptr);
    const auto cert = certIn(c.certificate);
    if (!key || !cert || X509_check_private_key(cert.get(), key.get()) != 1)
        return Error{"is no certificate with its key", "certificate", ""};
    return c;
}

bool isGoodFor(const OwnCertificate& c, const std::vector<std::string>& addresses) {
    const auto cert = certIn(c.certificate);
    if (!cert || X509_cmp_current_time(X509_get0_notBefore(cert.get())) > 0 ||
        X509_cmp_current_time(X509_get0_notAfter(cert.get())) < 0)
        return false;
    for (const auto& one : addresses)
        if (!one.empty() && (isIp(one) ? X509_check_ip_asc(cert.get(), one.c_str(), 0)
                                       : X509_check_host(cert.get(), one.c_str(), one.size(), 0, nullptr)) != 1)
            return false;
    return true;
}

std::string printOf(const OwnCertificate& c) {
    const auto cert = certIn(c.certificate);
    unsigned char sum[EVP_MAX_MD_SIZE];
    unsigned size = 0;
    if (!cert || X509_digest(cert.get(), EVP_sha256(), sum, &size) != 1)
        return {};
    static constexpr char digits[] = "0123456789ABCDEF";
    std::string text;
    for (unsigned i = 0; i < size; ++i)
        text += (i ? std::string(":") : std::string()) + digits[sum[i] >> 4] + digits[sum[i] & 15];
    return text;
}

} // namespace loom::serve
