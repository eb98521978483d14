#pragma once

#include "chain/chain.h"
#include "session/report_layout.h"

#include <QAbstractButton>
#include <QFrame>
#include <QPixmap>

namespace nuvat {

class ReadingKind;

/// How a link of the chain stands.
enum class LinkState { Nothing, Fine, Look, Failed };

/// What a card of the chain says.
struct LinkSummary {
    QString line;
    LinkState state = LinkState::Nothing;
};
/// Live summary of a page, from the batch and its evaluation. @param analyte the one that is shown
/// @param kind of what is shown
LinkSummary summarise(ChainPage page, const Batch& batch, const Evaluation& whole, int analyte, int reportPages,
                      const ReadingKind& kind);

/// One card: title, a live line, a small live picture and a state mark.
class ChainCard : public QAbstractButton {
    Q_OBJECT
public:
    ChainCard(ChainPage page, Workspace& workspace, QWidget* parent);
    ChainPage page() const { return m_page; }
    void refresh(int reportPages);
    const LinkSummary& summary() const { return m_summary; }

protected:
    void paintEvent(QPaintEvent* event) override;

private:
    void drawPicture(QPainter& painter, const QRectF& area) const;
    void drawWells(QPainter& painter, const QRectF& area) const;
    std::vector<QColor> wellColours() const; ///< of the pictures that are a plate
    QPixmap picture(QSize size);
    void light();
    ChainPage m_page;
    Workspace& m_workspace;
    LinkSummary m_summary;
    double m_glow = 0;
    bool m_isPictureStale = true;
    QPixmap m_picture; ///< kept while the card glows and while its wells look as before
    std::vector<QColor> m_wells;
};

/// The chain: seven cards, one below the other.
class ChainRail : public QFrame {
    Q_OBJECT
public:
    ChainRail(Workspace& workspace, QWidget* parent);
    void setCurrent(ChainPage page);
    ChainCard* card(ChainPage page) const;

Q_SIGNALS:
    void chosen(nuvat::ChainPage page);

private:
    std::vector<ChainCard*> m_cards;
};

} // namespace nuvat
