"""The effects' index: a tree of effects and their layers."""

from __future__ import annotations

from collections.abc import Callable, Collection
from functools import partial, reduce
from typing import TYPE_CHECKING

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QAbstractItemView, QHBoxLayout, QHeaderView, QTreeWidgetItem

from wraithon.desktop.effects.whole.look_menu import LookMenu
from wraithon.desktop.effects.whole.part_menu import PartMenu
from wraithon.desktop.effects.whole.preset_library import PresetLibrary
from wraithon.desktop.theme.colours import OCHRE, SOFT, TAGGED, TEAL
from wraithon.desktop.theme.theme import icon, set_icon
from wraithon.desktop.widgets.basics import Button, soft, tool
from wraithon.desktop.widgets.panels import Command
from wraithon.desktop.widgets.trees import TreeIndex, key_of, kind_of
from wraithon.interchange.clippings import clipping_of, fresh_effect, paste, read_clipping
from wraithon.project.edit import (
    copy_layers,
    fresh_name,
    move_effect,
    move_layers,
    remove_effect,
    remove_layer,
    shift_layers,
    with_effect,
    with_layer,
)
from wraithon.project.effect import ATTRIBUTES, TAGS, Effect, Layer
from wraithon.project.resolving.references import pasted_parts
from wraithon.project.things import effect_of, starters_of
from wraithon.studio.beginning import KINDS, begun_layer, begun_look
from wraithon.support.errors import ProjectError
from wraithon.support.identity import same_objects

if TYPE_CHECKING:
    from wraithon.desktop.desk import Desk
    from wraithon.project.project import Project
    from wraithon.studio.view_overrides import ViewOverrides


EYES = {"": ("eye",), "alone": ("eye", TEAL), "muted": ("eye-slash", OCHRE), "disabled": ("eye-slash",)}
"""How a layer is seen now, to its icon and colour."""
ENABLED_TIPS = {
    "": "Mute this layer for now (M)", "alone": "Shown alone of its effect (S ends it)",
    "muted": "Muted for now: not emitted, not drawn (M)", "disabled": "Disabled in the effect (Shift+M enables it)",
}  # fmt: skip


class EffectsIndex(TreeIndex):
    """The tree of effects and layers."""

    def __init__(self, desk: Desk) -> None:
        session = desk.session
        super().__init__(session, "Effects", "Effects and layers", 14)
        self._desk = desk
        self.presets, self.parts = PresetLibrary(desk, self), PartMenu(session, self)
        self.looks = LookMenu(desk, self)
        self.looks.picked.connect(self._look_picked)
        self._adds: Callable[[str], None] = self.add_layer
        """What is added with the look that is picked."""
        self.presets.pictures_wanted.connect(lambda wanted: desk.engine.send(pictures=wanted))
        desk.engine.pictured.connect(self.presets.take_picture, Qt.ConnectionType.QueuedConnection)
        self._built: tuple[Effect, ...] = ()
        """The effects that there are items for."""
        self._items: dict[tuple[str, str], QTreeWidgetItem] = {}
        self._worn: dict[str, tuple[Effect, ViewOverrides]] = {}
        """What each effect's items were dressed for."""
        self._dressed: dict[str, tuple[Effect | Layer, str]] = {}
        """What each item was dressed for, by the thing's id."""
        for button in (
            tool("plus", "New effect", partial(self.open_looks, self.add_effect)),
            tool("list-plus", "New layer", self.open_looks),
            tool("copy", "Duplicate (Ctrl+D)", self.duplicate), tool("trash", "Delete (Del)", self.remove),
        ):  # fmt: skip
            self.head.addWidget(button)
        self.tree.header().setSectionResizeMode(1, QHeaderView.ResizeMode.Fixed)
        self.tree.header().resizeSection(1, 28)
        self.tree.setEditTriggers(QAbstractItemView.EditTrigger.EditKeyPressed)
        self.tree.itemChanged.connect(self._renamed)
        self.tree.let_drag()
        self.tree.let_choose_several()
        self.tree.dropped.connect(self._dropped)
        self.tree.attribute_dropped.connect(self._attribute_dropped)
        self.column.addWidget(self.tree, 1)
        self._empty = soft("No effects yet. Press + to make the first one; then fire it, or let a trigger do so.")
        self.column.addWidget(self._empty)
        self._fire = Button(icon("lightning"), "Fire now")
        self._fire.setToolTip("Start this effect now, at its trigger's anchor (Ctrl+Return)")
        self._fire.clicked.connect(self.fire)
        self._audition = Button(icon("repeat"), "Audition")
        self._audition.setCheckable(True)
        self._audition.setToolTip("Repeats the selected effect beside the show (A)")
        self._audition.clicked.connect(desk.auditioning.toggle)
        library = Button(icon("bookmarks-simple"), "Presets ...")
        library.setToolTip("Stored layers and effects (P)")
        library.clicked.connect(self.open_presets)
        self.column.addWidget(library)
        below = QHBoxLayout()
        for button in (self._fire, self._audition):
            below.addWidget(button, 1)
        self.column.addLayout(below)
        desk.auditioning.changed.connect(self._show_audition)
        session.wished.connect(self.refresh)
        self.listen_to(session)

    def commands(self) -> list[Command]:
        """Return what the menu offers of this station."""
        return [
            ("Fire the selected effect", "Ctrl+Return", self.fire),
            ("Copy the layer or effect", "Ctrl+C", self.copy),
            ("Cut the layer or effect", "Ctrl+X", self.cut),
            ("Paste layers or effects", "Ctrl+V", self.paste),
            ("Paste only a part onto the layers ...", "Ctrl+Shift+V", self.open_parts),
            ("Move up in the list", "Alt+Up", lambda: self.shift(-1)),
            ("Move down in the list", "Alt+Down", lambda: self.shift(1)),
            ("Mute layer", "M", self.toggle_mute),
            ("Solo layer", "S", self.solo),
            ("Disable or enable the layer", "Shift+M", self.toggle_disabled),
            ("Another colour tag", "T", self.tag_on),
            ("Presets ...", "P", self.open_presets),
            ("Auditions on or off", "A", self._desk.auditioning.toggle),
            ("Hold the pose of the effect's event", "H", self._desk.auditioning.hold_pose),
        ]

    # ---- showing --------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the project's effects; the selection stays. Effects that are what they were are left as they are."""
        effects, overrides = self._session.project.effects, self._session.overrides
        with self.filling():
            self._build(effects)
            for effect in effects:
                worn = self._worn.get(effect.id)
                if worn is None or worn[0] is not effect or worn[1] is not overrides:
                    self._worn[effect.id] = effect, overrides
                    self._dress_all(effect, overrides)
        self._empty.setVisible(not effects)
        self.follow(*self._session.selection)

    def _build(self, effects: tuple[Effect, ...]) -> None:
        """Make an item for each effect and layer, in their order."""
        if same_objects(effects, self._built):
            return
        self._built = effects
        tops = [self.tree.topLevelItem(k) for k in range(self.tree.topLevelItemCount())]
        if [key_of(item) for item in tops] != [effect.id for effect in effects]:
            self._arrange(tops, effects)
        for k, effect in enumerate(effects):
            worn = self._worn.get(effect.id)
            if worn is None or worn[0] is not effect:
                self._build_layers(self.tree.topLevelItem(k), effect)

    def _arrange(self, tops: list[QTreeWidgetItem], effects: tuple[Effect, ...]) -> None:
        """Put the effects' items in their order; those that are there already are kept as they are."""
        known = {key_of(item): (item, item.isExpanded()) for item in tops}
        while self.tree.topLevelItemCount():
            self.tree.takeTopLevelItem(self.tree.topLevelItemCount() - 1)
        there = [known.get(effect.id) or (self.made("effect", effect.id), True) for effect in effects]
        self.tree.addTopLevelItems([item for item, _ in there])
        for item, opened in there:
            item.setExpanded(opened)
        for gone in known.keys() - {effect.id for effect in effects}:
            for item in (known[gone][0], *known[gone][0].takeChildren()):
                self._forget(item)

    def _build_layers(self, top: QTreeWidgetItem, effect: Effect) -> None:
        self._items["effect", effect.id] = top
        layers = [layer.id for layer in effect.layers]
        if [key_of(top.child(k)) for k in range(top.childCount())] == layers:
            return
        opened = top.isExpanded() or not top.childCount()
        known = {key_of(item): item for item in top.takeChildren()}
        top.addChildren([known.get(layer) or self.made("layer", layer) for layer in layers])
        for gone in known.keys() - set(layers):
            self._forget(known[gone])
        for item in filter(None, [top.child(k) for k in range(top.childCount())]):
            if self._items.get(("layer", key_of(item))) is not item:
                self._items["layer", key_of(item)] = item
                self._dressed.pop(key_of(item), None)
        top.setExpanded(opened)

    def _forget(self, item: QTreeWidgetItem) -> None:
        key = kind_of(item), key_of(item)
        if self._items.get(key) is item:  # a layer may have another one in the effect it was moved to
            del self._items[key]
            self._worn.pop(key[1], None)
            self._dressed.pop(key[1], None)

    def item(self, kind: str, key: str) -> QTreeWidgetItem | None:
        """Return the item of an effect or a layer, or None."""
        return self._items.get((kind, key))

    def _dress_all(self, effect: Effect, overrides: ViewOverrides) -> None:
        """Give an effect's items, and those of its layers, the names and icons that hold now."""
        seen = overrides.seen_of(effect)
        alike = set(seen.values())
        things: list[tuple[Effect | Layer, str]] = [(effect, alike.pop() if len(alike) == 1 else "")]
        things += [(layer, seen[layer.id]) for layer in effect.layers]
        for thing, how in things:
            worn = self._dressed.get(thing.id)
            if worn is None or worn[0] is not thing or worn[1] != how:
                self._dressed[thing.id] = thing, how
                self._dress(self._items["effect" if thing is effect else "layer", thing.id], thing, how)

    @staticmethod
    def _dress(item: QTreeWidgetItem, thing: Effect | Layer, seen: str) -> None:
        """Give an item the name and icons that hold now."""
        single = isinstance(thing, Layer)
        item.setFlags(item.flags() | Qt.ItemFlag.ItemIsEditable)
        item.setText(0, thing.name)
        item.setToolTip(0, f"{thing.name}: F2 renames; drag, or Alt with up and down, moves")
        item.setForeground(0, Qt.GlobalColor.gray if seen in {"muted", "disabled"} else Qt.GlobalColor.white)
        tag = TAGGED[thing.tag] if isinstance(thing, Layer) else SOFT
        set_icon(item, icon("stack-simple" if single else "sparkle", tag))
        if single:
            set_icon(item, icon(*EYES[seen]), 1)
            item.setToolTip(1, ENABLED_TIPS[seen])

    def _show_audition(self) -> None:
        self._audition.setChecked(self._desk.auditioning.on and self._desk.auditioning.effect is not None)

    def follow(self, kind: str, what: str) -> None:
        """Show what is selected; only an effect can be fired."""
        self._fire.setEnabled(self._effect() is not None)
        super().follow(kind, what)

    # ---- doing ----------------------------------------------------------------------------------

    def clicked(self, item: QTreeWidgetItem, column: int) -> None:
        """Mute a layer by its eye."""
        if column == 1 and kind_of(item) == "layer":
            self.toggle_mute(key_of(item))

    def _renamed(self, item: QTreeWidgetItem, _column: int) -> None:
        if self._filling:
            return
        name = item.text(0).strip()
        self._dressed.pop(key_of(item), None)  # it may have to go back to the name that holds
        top = item.parent() or item
        self._worn.pop(key_of(top), None)
        if not name or not self._session.set_value(kind_of(item), key_of(item), "name", name, f"Rename to {name}"):
            self.refresh()

    def _effect(self) -> Effect | None:
        return effect_of(self._session.project, *self._session.selection)

    def _begun(self, name: str, neighbour: Layer | None) -> tuple[Layer, str]:
        return begun_layer(self._session.project, name, self._desk.picked, neighbour)

    def add_effect(self, kind: str = "sprite") -> None:
        """Add an effect with one visible layer of a look and select it."""
        names = (e.name for e in self._session.project.effects)
        layer, where = self._begun("glow" if kind == "sprite" else KINDS[kind].lower(), None)
        effect = Effect(name=fresh_name("effect", names), length=1.0, layers=(begun_look(layer, kind),))
        self._session.edit("New effect", lambda p: with_effect(p, effect))
        self._session.select("effect", effect.id)
        self._session.said.emit(f"New effect: its layer is emitted from {where}", "fine")

    def add_layer(self, kind: str = "sprite") -> None:
        """Add a layer of a look to the selected effect and select it."""
        effect = self._effect()
        if effect is None:
            self._session.said.emit("Select an effect first; the layer is added to it", "warning")
            return
        found = self._session.project.layer(self._session.selection[1])
        neighbour = found[1] if found else effect.layers[-1] if effect.layers else None
        plain, where = self._begun(fresh_name("layer", (x.name for x in effect.layers)), neighbour)
        layer = begun_look(plain, kind)
        self._session.edit("New layer", lambda p: with_layer(p, effect.id, layer))
        self._session.select("layer", layer.id)
        self._session.said.emit(f"New layer: emitted from {where}", "fine")

    def _look_picked(self, kind: str) -> None:
        self._adds(kind)

    def open_looks(self, adds: Callable[[str], None] | None = None) -> None:
        """Ask what a new layer, or the first of a new effect, is to be drawn as."""
        self._adds = adds or self.add_layer
        self.looks.popup(self.mapToGlobal(QPoint(self.width() + 8, 30)))

    def _in_order(self) -> list[str]:
        """Return ids of the selected layers or effects in the order of the list, which may be folded and behind."""
        ids = (x for effect in self._session.project.effects for x in (effect.id, *(y.id for y in effect.layers)))
        return [each for each in ids if each in self._session.chosen]

    def duplicate(self) -> None:
        """Duplicate the selected layers or effects and select the copies."""
        kind, chosen = self._session.selection[0], self._in_order()
        if kind == "layer":
            project, copies = copy_layers(self._session.project, chosen)
            self._session.edit(f"Duplicate {_counted('layer', copies)}", lambda _p: project)
        elif kind == "effect" and chosen:
            project, copies = self._session.project, []
            for effect in (x for x in project.effects if x.id in chosen):
                twin = fresh_effect(project, effect)
                project = with_effect(project, twin)
                copies.append(twin.id)
            self._session.edit(f"Duplicate {_counted('effect', copies)}", lambda _p: project)
        else:
            return
        self._session.select(kind, *copies)

    def copy(self) -> bool:
        """Copy the selected layers or effects as text that any project takes; return whether there were any."""
        text = clipping_of(self._session.project, self._session.selection[0], self._session.chosen)
        if text is None:
            self._session.said.emit("Select a layer or an effect first; it is what is copied", "warning")
            return False
        QGuiApplication.clipboard().setText(text)
        return True

    def cut(self) -> None:
        """Copy the selected layers or effects and delete them."""
        if self.copy():
            self.remove()

    def paste(self) -> None:
        """Add what was copied: layers below the selected ones, else last in the selected effect."""
        effect, chosen = self._effect(), self._in_order()
        try:
            clipping = read_clipping(QGuiApplication.clipboard().text())
        except ProjectError as error:
            self._session.said.emit(str(error), "warning")
            return
        below = None
        if effect is not None and self._session.selection[0] == "layer":
            effect, _ = self._session.project.layer(chosen[-1]) or (effect, None)
            below = chosen[-1]
        into = effect.id if effect else None
        pasted = None

        def change(project: Project) -> Project:
            nonlocal pasted
            pasted = paste(project, clipping, into, below)
            return pasted.project

        text = _counted("layer", clipping.layers) if clipping.layers else _counted("effect", clipping.effects)
        if self._session.edit(f"Paste {text}", change) and pasted is not None:
            self._session.select(pasted.kind, *pasted.ids)

    def open_parts(self) -> None:
        """Ask which part of what was copied goes onto the selected layers."""
        self.parts.open_at(self.mapToGlobal(QPoint(self.width() + 8, 60)))

    def remove(self) -> None:
        """Delete the selected layers or effects."""
        kind, chosen, effect = self._session.selection[0], self._session.chosen, self._effect()
        if kind not in {"layer", "effect"}:
            return
        taken_out = remove_layer if kind == "layer" else remove_effect
        text, users = f"Delete {_counted(kind, chosen)}", starters_of(self._session.project, chosen)
        self._session.edit(text, lambda p: reduce(taken_out, chosen, p))
        if users:
            consequence = f"Started until now by {', '.join(users)}, which now start nothing; Ctrl+Z undoes this"
            self._session.said.emit(consequence, "warning")
        self._session.select(*("effect", effect.id) if kind == "layer" and effect else ("", ""))

    def shift(self, by: int) -> None:
        """Move the selected layers within their effects, or the selected effect in the list."""
        kind, what = self._session.selection
        if kind == "layer":
            text = f"Move {_counted('layer', self._session.chosen)}"
            self._session.edit(text, lambda p: shift_layers(p, self._session.chosen, by))
        elif kind == "effect":
            ids = [x.id for x in self._session.project.effects]
            number = ids.index(what) + by
            if 0 <= number < len(ids):
                self._session.edit("Move effect", lambda p: move_effect(p, what, number))

    def _dropped(self, dragged: QTreeWidgetItem, onto: QTreeWidgetItem, below: bool) -> None:
        """Put layers beside the one they are dropped on, or first in an effect; an effect beside another."""
        what, project = key_of(dragged), self._session.project
        over = onto if kind_of(onto) == "effect" else onto.parent()
        effect = project.effect(key_of(over))
        if effect is None:
            return
        if kind_of(dragged) == "effect":
            others = [x.id for x in project.effects if x.id != what]
            if effect.id != what:
                number = others.index(effect.id) + (below or onto is not over)
                self._session.edit("Move effect", lambda p: move_effect(p, what, number))
            return
        moved = self._in_order() if what in self._session.chosen else [what]
        if key_of(onto) in moved:
            return
        others = [x.id for x in effect.layers if x.id not in moved]
        number = 0 if onto is over else others.index(key_of(onto)) + below

        text = f"Move {_counted('layer', moved)}"
        self._session.edit(text, lambda p: move_layers(p, moved, effect.id, others[number:][:1]))

    def _attribute_dropped(self, layer: str, name: str, onto: QTreeWidgetItem | None) -> None:
        """Copy an attribute of a layer onto the one it is dropped on, and onto all that are selected with that."""
        found = self._session.project.layer(layer)
        if onto is None or kind_of(onto) != "layer" or found is None or name not in ATTRIBUTES:
            return
        what = key_of(onto)
        others = self._session.chosen if what in self._session.chosen and what != layer else (what,)
        reached = [each for each in others if each != layer]
        if reached:
            text = f"Copy {name} to {_counted('layer', reached)}"
            self._session.edit(text, lambda p: pasted_parts(p, found[1], reached, [name]), final=True)

    def open_presets(self) -> None:
        """Open the shelf of presets beside the list."""
        self.presets.open_at(self.mapToGlobal(QPoint(self.width() + 8, 8)))

    def _chosen_layers(self) -> tuple[str, ...]:
        return self._session.chosen if self._session.selection[0] == "layer" else ()

    def toggle_mute(self, layer_id: str | None = None) -> None:
        """Mute a layer, or hear it again; without an id, all that are selected: again only when all are muted.

        One that is disabled is enabled.
        """
        chosen = (layer_id,) if layer_id else self._chosen_layers()
        out = [what for what in chosen if (found := self._session.project.layer(what)) and found[1].disabled]
        if out:
            self._set_disabled(out, disabled=False)
        elif chosen:
            self._session.wish(self._session.overrides.muting(chosen))

    def solo(self) -> None:
        """See only the selected layers of their effect, or all of it again."""
        chosen = self._chosen_layers()
        found = self._session.project.layer(chosen[0]) if chosen else None
        if found is not None:
            self._session.wish(self._session.overrides.soloing(found[0], chosen))

    def toggle_disabled(self) -> None:
        """Disable the selected layers; enable them when all are disabled already."""
        layers = [found[1] for what in self._chosen_layers() if (found := self._session.project.layer(what))]
        if layers:
            self._set_disabled([x.id for x in layers], disabled=not all(x.disabled for x in layers))

    def tag_on(self) -> None:
        """Give the selected layers the next colour tag, or none after the last."""
        kind, what = self._session.selection
        found = self._session.project.layer(what) if kind == "layer" else None
        if found is not None:
            tag = TAGS[(TAGS.index(found[1].tag) + 1) % len(TAGS)]
            self._session.set_value(kind, what, "tag", tag, "Colour tag")

    def _set_disabled(self, layers: Collection[str], *, disabled: bool) -> None:
        text = f"{'Disable' if disabled else 'Enable'} {_counted('layer', layers)}"
        self._session.edit(text, lambda p: reduce(partial(_with_disabled, disabled), layers, p))

    def fire(self) -> None:
        """Start the selected effect now."""
        effect = self._effect()
        if effect is not None:
            self._desk.fire(effect.id)


def _counted(kind: str, things: Collection[object]) -> str:
    """Return "layer" for one, "3 layers" for three."""
    return kind if len(things) == 1 else f"{len(things)} {kind}s"


def _with_disabled(disabled: bool, project: Project, layer_id: str) -> Project:
    found = project.layer(layer_id)
    return with_layer(project, found[0].id, found[1].evolve(disabled=disabled)) if found else project
