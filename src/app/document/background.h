#pragma once
// Work of the document off the interface's thread.

#include "document.h"

namespace ember::app {

/// Computing takes what the interface leaves: on two cores it would otherwise stand in the way of each key.
void yieldToTheInterface();

template <typename Work>
void Document::inBackground(QThreadPool& pool, Work work) {
    ++jobs;
    pool.start([this, work = std::move(work)]() mutable {
        yieldToTheInterface();
        work();
        QMetaObject::invokeMethod(
            this, [this] { --jobs; }, Qt::QueuedConnection);
    });
}

} // namespace ember::app
