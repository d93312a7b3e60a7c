// The project that is worked on, as those who speak with devices need it.
#pragma once
#include "model/edit.h"
#include "model/health.h"
#include "model/history.h"

namespace loom::client {

class Design {
  public:
    virtual ~Design() = default;
    virtual const project::Project& project() const = 0;
    virtual project::ModelSource models() const = 0;                // where models of what is found are looked up
    virtual bool edit(project::Edit edit) = 0;                      // a step; false: refused, and it said why
    virtual bool note(project::Edit edit) = 0;                      // what became known of devices: no step
    virtual void say(const std::string& text, bool bad = true) = 0; // to whoever works
    virtual std::string working() const = 0;                        // the device whose tools are worked with; "": none
    virtual const project::SiteHealth& health() const = 0;
    virtual void setHealth(project::SiteHealth health) = 0;
};

// A project of its own, for those who have no window.
class PlainDesign : public Design {
  public:
    PlainDesign(project::Project p, const project::ModelSource& models) : models_(models), project_(std::move(p)) {}
    project::ModelSource models() const override { return models_; }
    const project::Project& project() const override { return project_; }
    bool edit(project::Edit edit) override { return keep(history_.run(edit)); }
    bool note(project::Edit edit) override { return keep(history_.note(edit)); }
    std::string working() const override { return ""; }
    const project::SiteHealth& health() const override { return health_; }
    void setHealth(project::SiteHealth health) override { health_ = std::move(health); }
    std::function<void(const project::Change&)> changed;
    bool touched = false; // since it was made

  private:
    bool keep(const Result<project::Change>& change) {
        if (!change)
            say(change.error().text());
        else if (touched = true; changed)
            changed(*change);
        return bool(change);
    }
    project::ModelSource models_;
    project::Project project_;
    project::History history_{project_};
    project::SiteHealth health_;
};

} // namespace loom::client
