#include "kinds/trace/trace_tools.h"

#include "theme/style.h"
#include "widgets/controls.h"

#include <QButtonGroup>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

namespace nuvat {

TraceTools::TraceTools(QWidget* parent) : QWidget(parent) {
    auto* lines = new QVBoxLayout(this);
    lines->setContentsMargins(0, 0, 0, 0);
    lines->setSpacing(4);
    m_title = makeLabel({}, "mute", this);
    m_title->setObjectName(QStringLiteral("responseTitle"));
    m_title->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred); // cut rather than pushing the rest away
    auto* head = new QHBoxLayout;
    head->setSpacing(7);
    head->addWidget(m_title, 1);
    head->addWidget(makeLabel(tr("for"), "mute", this));
    m_applyTo = new Choice(this);
    m_applyTo->setObjectName(QStringLiteral("applyTo"));
    m_applyTo->setAccessibleName(tr("What is drawn applies to"));
    m_applyTo->setToolTip(tr("What is drawn applies to"));
    m_applyTo->addItems({tr("this run"), tr("its replicates"), tr("all runs")});
    m_applyTo->setMinimumWidth(118);
    head->addWidget(m_applyTo);
    lines->addLayout(head);
    auto* row = new QHBoxLayout;
    row->setSpacing(5);
    lines->addLayout(row);
    m_tools = new QButtonGroup(this);
    m_tools->setExclusive(false);
    const auto add = [&](TraceTool tool, const char* name, const QString& words, const QString& tip) {
        auto* button = makeButton(words, "normal", QString::fromLatin1(name), this);
        button->setCheckable(true);
        button->setToolTip(tip);
        m_tools->addButton(button, static_cast<int>(tool));
        row->addWidget(button);
    };
    add(TraceTool::Line, "toolLine", tr("Line"), tr("Drag a base line from start to end of a peak (B)"));
    add(TraceTool::Split, "toolSplit", tr("Split"), tr("Click where a peak is parted by a drop (S)"));
    add(TraceTool::Join, "toolJoin", tr("Join"), tr("Drag over the peaks that are one (J)"));
    add(TraceTool::Remove, "toolRemove", tr("Remove"), tr("Click a peak that is none (Del)"));
    add(TraceTool::Give, "toolGive", tr("Give"),
        tr("Click the peak that is the analyte's in this run, or click its own to take it away (G)"));
    add(TraceTool::Ignore, "toolIgnore", tr("Ignore"), tr("Drag over a stretch that does not count, in all runs (I)"));
    connect(m_tools, &QButtonGroup::idClicked, this, [this](int id) {
        Q_EMIT chosen(m_tools->button(id)->isChecked() ? static_cast<TraceTool>(id) : TraceTool::Zoom);
    });
    m_markers = makeButton(tr("Markers"), "normal", QStringLiteral("toolMarkers"), this);
    m_markers->setCheckable(true);
    m_markers->setToolTip(tr("Two markers with the straight line between them (M)"));
    connect(m_markers, &QPushButton::clicked, this, &TraceTools::markersAsked);
    row->addWidget(m_markers);
    row->addStretch();
}

void TraceTools::show(const QString& title) {
    m_title->setText(title);
    m_title->setToolTip(title);
}

void TraceTools::setTool(TraceTool tool) {
    for (QAbstractButton* button : m_tools->buttons()) {
        button->setChecked(m_tools->id(button) == static_cast<int>(tool));
    }
}

void TraceTools::setMarkersOn(bool isOn) {
    m_markers->setChecked(isOn);
}

ApplyTo TraceTools::applyTo() const {
    return static_cast<ApplyTo>(m_applyTo->currentIndex());
}

} // namespace nuvat
