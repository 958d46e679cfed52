/** What a page shows of a design, as plain data that crosses from wherever the text is read. */
export { NO_COLOURS, type PackedColours, packColours, unpackColours } from './colours.js';
export {
  type DeclarationView,
  type DesignView,
  designView,
  type EntityView,
  type FieldEntry,
  type FieldView,
  type ParameterView,
  type PositionView,
  type QueryView,
  type RoleView,
} from './design-view.js';
export { type MapAsk, type MapView, mapView, WHOLE_MAP } from './map-view.js';
export { type Opening, type OpeningTold, openingOf, openingTold } from './opening.js';
