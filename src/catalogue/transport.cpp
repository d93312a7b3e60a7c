#include "catalogue/transport.h"

namespace loom::project {

const std::vector<TransportSpec>& transportSpecs() {
    static const std::vector<TransportSpec> all{{Transport::network, "net ", "network", "Packet network", true},
                                                {Transport::ring, "ring ", "ring", "Audio ring", true},
                                                {Transport::pair, "pair ", "pair", "Pair links", false},
                                                {Transport::cable, "", "cable", "Cables", false},
                                                {Transport::usb, "usb ", "usb", "USB", false},
                                                {Transport::telephone, "tel ", "telephone", "Telephone", false}};
    return all;
}

Transport transportOf(const std::string& port) {
    for (const auto& t : transportSpecs())
        if (*t.prefix && port.rfind(t.prefix, 0) == 0)
            return t.transport;
    return Transport::cable;
}

const TransportSpec& specOf(Transport transport) {
    return transportSpecs()[static_cast<std::size_t>(transport)];
}

} // namespace loom::project
