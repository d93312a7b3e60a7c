// The declared types as a page of documentation.
#pragma once
#include "schema/schema.h"

namespace loom::schema {

// A table in Markdown of one type's fields from its JSON Schema: key, what it may be, what it means.
std::string tableOf(const std::string& name, const Json& schema);

// Tables of T and of every type that it holds, in the order in which they are met.
template <Described T> std::string pageOf() {
    Definitions d;
    const Json whole = Describe<T>::type().schema(d);
    std::string page = tableOf(Describe<T>::type().name(), whole);
    for (const auto& [name, schema] : d)
        if (schema.contains("properties") && name != Describe<T>::type().name())
            page += tableOf(name, schema);
    return page;
}

} // namespace loom::schema
