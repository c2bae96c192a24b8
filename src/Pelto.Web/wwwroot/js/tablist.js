// Tabs and what they show (WAI-ARIA tabs pattern).

export const panelOf = tab => document.getElementById(tab.getAttribute('aria-controls'));

/** Shows what belongs to one of several tabs, and hides the rest. */
export function showTab(tabs, tab) {
  for (const other of tabs) {
    other.setAttribute('aria-selected', String(other === tab));
    panelOf(other).hidden = other !== tab;
  }
}
