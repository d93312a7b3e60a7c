// The project that is worked on, as those who speak with devices need it.
#pragma once
#include "project/edit.h"
#include "project/health.h"

namespace loom::client {

class Design {
  public:
    virtual ~Design() = default;
    virtual const project::Project& project() const = 0;
    virtual bool edit(project::Edit edit) = 0;                      // a step; false: refused, and it said why
    virtual bool note(project::Edit edit) = 0;                      // what became known of devices: no step
    virtual void say(const std::string& text, bool bad = true) = 0; // to whoever works
    virtual std::string working() const = 0;                        // the device whose tools are worked with; "": none
    virtual const project::SiteHealth& health() const = 0;
    virtual void setHealth(project::SiteHealth health) = 0;
};

} // namespace loom::client
