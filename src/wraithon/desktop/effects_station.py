"""The Effects station: effects and their layers on the left, the chosen one in full on the right."""

from __future__ import annotations

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHeaderView,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from wraithon.desktop.emission_editor import EmissionEditor
from wraithon.desktop.fields import Button, Check, NumberField, Section, TextField, labelled, soft, tool
from wraithon.desktop.life_sheet import LifeSheet
from wraithon.desktop.look_editor import LookEditor
from wraithon.desktop.motion_editor import MotionEditor
from wraithon.desktop.session import Session
from wraithon.desktop.sheet import Index, Sheet
from wraithon.desktop.source_editor import SourceEditor
from wraithon.desktop.theme import OCHRE, SOFT, icon, put_icon
from wraithon.project.base import new_id
from wraithon.project.edit import (
    copy_layer,
    fresh_name,
    put_effect,
    put_layer,
    remove_effect,
    remove_layer,
)
from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Emission
from wraithon.project.life import Attribute, Curve
from wraithon.project.look import Blend, SpriteLook
from wraithon.project.project import Project

__all__ = ["EffectsIndex", "EffectsSheet", "anchor_choices", "effect_choices", "new_layer"]

KIND, KEY = Qt.ItemDataRole.UserRole, Qt.ItemDataRole.UserRole + 1


def new_layer(name: str) -> Layer:
    """Return a layer that shows something at once: soft glows that rise a little and fade."""
    return Layer(
        name=name,
        emission=Emission(rate=40),
        lifetime=Attribute.of(0.8, 1.4),
        speed=Attribute.of(0.2, 0.6),
        size=Attribute.of(0.04, 0.08),
        intensity=Attribute.of(1.5),
        opacity=Attribute.of(1.0, 1.0, Curve.through((0, 0), (0.15, 1), (1, 0))),
        look=SpriteLook(texture="glow.png", blend=Blend.ADDITIVE),
    )


class EffectsIndex(Index):
    """The tree of effects and layers.

    Signals
    -------
    fired
        An effect is to be started now: its id.
    """

    fired = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__("Effects")
        self._session = session
        self._filling = False
        self._solo: frozenset[str] = frozenset()
        bar = self.column.itemAt(0).layout()
        for button in (
            tool("plus", "New effect", self.add_effect),
            tool("list-plus", "New layer in this effect", self.add_layer),
            tool("copy", "Duplicate (Ctrl+D)", self.duplicate),
            tool("trash", "Delete (Del)", self.remove),
        ):
            bar.addWidget(button)
        self.tree = QTreeWidget()
        self.tree.setColumnCount(2)
        self.tree.setHeaderHidden(True)
        self.tree.header().setStretchLastSection(False)
        self.tree.header().setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        self.tree.header().setSectionResizeMode(1, QHeaderView.ResizeMode.Fixed)
        self.tree.header().resizeSection(1, 28)
        self.tree.setIndentation(14)
        self.tree.setIconSize(QSize(15, 15))
        self.tree.setEditTriggers(QAbstractItemView.EditTrigger.EditKeyPressed)
        self.tree.setAccessibleName("Effects and layers")
        self.tree.currentItemChanged.connect(self._picked)
        self.tree.itemClicked.connect(self._clicked)
        self.tree.itemChanged.connect(self._renamed)
        self.column.addWidget(self.tree, 1)
        self._empty = soft("No effects yet. Press + to make the first one; then fire it, or let a trigger do so.")
        self.column.addWidget(self._empty)
        self._fire = Button(icon("lightning"), "Fire now")
        self._fire.setToolTip("Start this effect now, at its trigger's anchor (Ctrl+Return)")
        self._fire.clicked.connect(self.fire)
        self.column.addWidget(self._fire)
        session.changed.connect(self.refresh)
        session.selected.connect(self._follow)
        self.refresh()

    # ---- showing --------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the project's effects; the selection stays."""
        self._filling = True
        project = self._session.project
        wanted = [(e.id, [x.id for x in e.layers]) for e in project.effects]
        if wanted != self._held():
            closed = {self._id(i) for i in self._tops() if not i.isExpanded()}
            self.tree.clear()
            for effect in project.effects:
                top = self._item(None, "effect", effect.id)
                for layer in effect.layers:
                    self._item(top, "layer", layer.id)
                top.setExpanded(effect.id not in closed)
        for top, effect in zip(self._tops(), project.effects, strict=True):
            self._dress(top, effect.name, "sparkle", all(x.muted for x in effect.layers) and bool(effect.layers))
            for k, layer in enumerate(effect.layers):
                self._dress(top.child(k), layer.name, "stack-simple", layer.muted)
                eye = "eye-slash" if layer.muted else "eye"
                put_icon(top.child(k), icon(eye, OCHRE if layer.muted else SOFT), 1)
                top.child(k).setToolTip(1, "Muted: not born, not drawn (M)" if layer.muted else "Mute this layer (M)")
        self._empty.setVisible(not project.effects)
        self._filling = False
        self._follow(*self._session.selection)

    def _held(self) -> list[tuple[str, list[str]]]:
        return [(self._id(t), [self._id(t.child(k)) for k in range(t.childCount())]) for t in self._tops()]

    def _tops(self) -> list[QTreeWidgetItem]:
        return [self.tree.topLevelItem(k) for k in range(self.tree.topLevelItemCount())]

    @staticmethod
    def _id(item: QTreeWidgetItem) -> str:
        return str(item.data(0, KEY))

    def _item(self, parent: QTreeWidgetItem | None, kind: str, key: str) -> QTreeWidgetItem:
        item = QTreeWidgetItem()
        item.setData(0, KIND, kind)
        item.setData(0, KEY, key)
        item.setFlags(item.flags() | Qt.ItemFlag.ItemIsEditable)
        if parent is None:
            self.tree.addTopLevelItem(item)
        else:
            parent.addChild(item)
        return item

    @staticmethod
    def _dress(item: QTreeWidgetItem, name: str, picture: str, muted: bool) -> None:
        item.setText(0, name)
        put_icon(item, icon(picture))
        item.setToolTip(0, f"{name}: F2 renames")
        item.setForeground(0, Qt.GlobalColor.gray if muted else Qt.GlobalColor.white)

    def _follow(self, kind: str, what: str) -> None:
        self._fire.setEnabled(self._effect() is not None)
        if kind not in {"effect", "layer"}:
            return
        for top in self._tops():
            for item in (top, *(top.child(k) for k in range(top.childCount()))):
                if self._id(item) == what and self.tree.currentItem() is not item:
                    self._filling = True
                    self.tree.setCurrentItem(item)
                    self._filling = False

    # ---- doing ----------------------------------------------------------------------------------

    def _picked(self, item: QTreeWidgetItem | None, _before: QTreeWidgetItem | None) -> None:
        if item is not None and not self._filling:
            self._session.select(str(item.data(0, KIND)), self._id(item))

    def _clicked(self, item: QTreeWidgetItem, column: int) -> None:
        if column == 1 and item.data(0, KIND) == "layer":
            self.toggle_mute(self._id(item))

    def _renamed(self, item: QTreeWidgetItem, _column: int) -> None:
        name = item.text(0).strip()
        if self._filling or not name:
            return
        key = self._id(item)

        def change(project: Project) -> Project:
            effect = project.effect(key)
            if effect is not None:
                return put_effect(project, effect.but(name=name))
            found = project.layer(key)
            return put_layer(project, found[0].id, found[1].but(name=name)) if found else project

        if not self._session.edit(f"Rename to {name}", change):
            self.refresh()

    def _effect(self) -> Effect | None:
        kind, what = self._session.selection
        project = self._session.project
        if kind == "layer":
            found = project.layer(what)
            return found[0] if found else None
        return project.effect(what) if kind == "effect" else None

    def add_effect(self) -> None:
        """Add an effect with one visible layer and select it."""
        names = (e.name for e in self._session.project.effects)
        effect = Effect(name=fresh_name("effect", names), length=1.0, layers=(new_layer("glow"),))
        self._session.edit("New effect", lambda p: put_effect(p, effect))
        self._session.select("effect", effect.id)

    def add_layer(self) -> None:
        """Add a layer to the selected effect and select it."""
        effect = self._effect()
        if effect is None:
            self._session.said.emit("Select an effect first; the layer is added to it", "warning")
            return
        layer = new_layer(fresh_name("layer", (x.name for x in effect.layers)))
        self._session.edit("New layer", lambda p: put_layer(p, effect.id, layer))
        self._session.select("layer", layer.id)

    def duplicate(self) -> None:
        """Duplicate the selected layer or effect and select the copy."""
        kind, what = self._session.selection
        if kind == "layer":
            project, copy = copy_layer(self._session.project, what)
            self._session.edit("Duplicate layer", lambda _p: project)
            self._session.select("layer", copy)
        elif (effect := self._effect()) is not None:
            names = (e.name for e in self._session.project.effects)
            layers = tuple(x.but(id=new_id()) for x in effect.layers)
            twin = effect.but(id=new_id(), name=fresh_name(effect.name, names), layers=layers)
            self._session.edit("Duplicate effect", lambda p: put_effect(p, twin))
            self._session.select("effect", twin.id)

    def remove(self) -> None:
        """Delete the selected layer or effect."""
        kind, what = self._session.selection
        if kind == "layer":
            effect = self._effect()
            self._session.edit("Delete layer", lambda p: remove_layer(p, what))
            self._session.select("effect", effect.id if effect else "")
        elif kind == "effect":
            self._session.edit("Delete effect", lambda p: remove_effect(p, what))
            self._session.select("", "")

    def toggle_mute(self, layer_id: str | None = None) -> None:
        """Mute or unmute a layer; without an id, the selected one."""
        kind, what = self._session.selection
        found = self._session.project.layer(layer_id or (what if kind == "layer" else None))
        if found is not None:
            effect, layer = found
            word = "Unmute" if layer.muted else "Mute"
            muted = layer.but(muted=not layer.muted)
            self._session.edit(f"{word} {layer.name}", lambda p: put_layer(p, effect.id, muted))

    def solo(self) -> None:
        """Mute all other layers of the selected one's effect, or bring them back."""
        kind, what = self._session.selection
        found = self._session.project.layer(what) if kind == "layer" else None
        if found is None:
            return
        effect, layer = found
        others = [x for x in effect.layers if x.id != layer.id]
        alone = bool(others) and all(x.muted for x in others) and not layer.muted
        layers = tuple(x.but(muted=not (alone or x.id == layer.id)) for x in effect.layers)
        words = "End solo" if alone else f"Solo {layer.name}"
        self._session.edit(words, lambda p: put_effect(p, effect.but(layers=layers)))

    def fire(self) -> None:
        """Start the selected effect now."""
        effect = self._effect()
        if effect is not None:
            self.fired.emit(effect.id)


class EffectsSheet(Sheet):
    """The selected effect or layer, in full."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._layer_box = QWidget()
        self._layer_box.setObjectName("panel")
        self._effect_box = QWidget()
        self._effect_box.setObjectName("panel")
        self.emission, self.source = EmissionEditor(), SourceEditor()
        self.motion, self.look, self.life = MotionEditor(), LookEditor(), LifeSheet()
        self._build_layer()
        self._build_effect()
        self.body.addWidget(self._effect_box)
        self.body.addWidget(self._layer_box)
        self.body.addStretch(1)
        for editor, field in (
            (self.emission, "emission"),
            (self.source, "source"),
            (self.motion, "motion"),
            (self.look, "look"),
        ):
            editor.edited.connect(lambda words, value, final, field=field: self._edit(words, field, value, final))
        self.life.edited.connect(lambda name, value, final: self._edit(name.capitalize(), name, value, final))
        session.changed.connect(self.refresh)
        session.selected.connect(lambda _kind, _what: self.refresh())
        self.refresh()

    def _build_layer(self) -> None:
        column = QVBoxLayout(self._layer_box)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        self._findings = soft("")
        self._findings.setObjectName("warning")
        column.addWidget(self._findings)
        for title, editor in (
            ("Life", self.life),
            ("Emission", self.emission),
            ("Source", self.source),
            ("Look", self.look),
            ("Motion", self.motion),
        ):
            section = Section(title)
            section.body.addWidget(editor)
            column.addWidget(section)

    def _build_effect(self) -> None:
        column = QVBoxLayout(self._effect_box)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self._name = TextField("Name of the effect")
        self._name.edited.connect(lambda name: self._effect_edit("Rename effect", name=name))
        self._endless = Check("until it is stopped")
        self._endless.clicked.connect(lambda on: self._effect_edit("Effect length", length=None if on else 1.0))
        self._length = NumberField("s", low=0, high=1e4, step=0.05, name="How long a firing gives birth")
        self._length.edited.connect(lambda v, f: self._effect_edit("Effect length", f, length=v))
        column.addWidget(labelled("name", self._name))
        column.addWidget(labelled("gives birth for", self._length, self._endless))
        self._users = soft("")
        column.addWidget(self._users)
        self._layers_hint = soft("")
        column.addWidget(self._layers_hint)

    def refresh(self) -> None:
        """Show what is selected."""
        kind, what = self._session.selection
        project = self._session.project
        found = project.layer(what) if kind == "layer" else None
        effect = project.effect(what) if kind == "effect" else None
        self._layer_box.setVisible(found is not None)
        self._effect_box.setVisible(effect is not None)
        if found is not None:
            self._show_layer(*found)
        elif effect is not None:
            self._show_effect(effect)
        else:
            self.title.setText("Nothing selected")
            self.say("Choose an effect or one of its layers on the left; its settings appear here.")

    def _show_layer(self, effect: Effect, layer: Layer) -> None:
        self.title.setText(f"{layer.name}  ·  {effect.name}")
        self.say("Muted: this layer is neither born nor drawn." if layer.muted else "")
        self.life.show_layer(layer)
        self.emission.show_emission(layer.emission, effect.length)
        session = self._session
        textures = session.shelf.names()
        self.source.show_source(layer.source, session.character, session.project.character, textures)
        self.motion.show_motion(layer.motion)
        self.look.show_look(layer.look, self._session.shelf)
        about = [f.message for f in self._session.findings() if f.about == layer.id]
        self._findings.setText("\n".join(f"Note: {message}." for message in about))
        self._findings.setVisible(bool(about))

    def _show_effect(self, effect: Effect) -> None:
        self.title.setText(effect.name)
        self.say("")
        self._name.set_value(effect.name)
        self._endless.setChecked(effect.length is None)
        self._length.setEnabled(effect.length is not None)
        self._length.set_value(effect.length if effect.length is not None else 0.0)
        triggers = [t.name for t in self._session.project.triggers if any(s.effect == effect.id for s in t.response)]
        users = ", ".join(triggers)
        self._users.setText(
            f"Fired by: {users}" if users else "No trigger fires it yet: make one in Triggers, or press Fire now."
        )
        self._layers_hint.setText(
            "Layers: " + ", ".join(layer.name for layer in effect.layers)
            if effect.layers
            else "It has no layers yet: press the second button above the list to add one."
        )

    def _edit(self, words: str, field: str, value: object, final: bool) -> None:
        kind, what = self._session.selection
        if kind != "layer":
            return

        def change(project: Project) -> Project:
            found = project.layer(what)
            if found is None:
                return project
            return put_layer(project, found[0].id, found[1].but(**{field: value}))

        self._session.edit(words, change, merge=f"{field} {words} {what}")
        if final:
            self._session.history.seal()

    def _effect_edit(self, words: str, final: bool = True, **changes: object) -> None:
        kind, what = self._session.selection
        if kind != "effect":
            return

        def change(project: Project) -> Project:
            effect = project.effect(what)
            return put_effect(project, effect.but(**changes)) if effect else project

        self._session.edit(words, change, merge=f"{words} {what}")
        if final:
            self._session.history.seal()


def anchor_choices(session: Session, none_words: str) -> list[tuple[str, object]]:
    """Return what an anchor field offers: none, and all anchors by name."""
    use = session.project.character
    anchors = use.anchors if use else ()
    return [(none_words, None), *((a.name, a.id) for a in anchors)]


def effect_choices(session: Session) -> list[tuple[str, object]]:
    """Return what an effect field offers."""
    return [("choose an effect", None), *((e.name, e.id) for e in session.project.effects)]
