-- +goose Up
-- Deliveries that belong to a table: attached to it, or collected for it from addresses and cells. Their pictures come before all others.
CREATE TABLE worksheet_own (
    worksheet_id bigint NOT NULL REFERENCES worksheet ON DELETE CASCADE,
    delivery_id  bigint NOT NULL REFERENCES delivery ON DELETE CASCADE,
    PRIMARY KEY (worksheet_id, delivery_id)
);
CREATE INDEX worksheet_own_delivery ON worksheet_own (delivery_id);

ALTER TABLE worksheet
    ADD COLUMN waiting int NOT NULL DEFAULT 0, -- pictures at addresses and in cells that are not here yet
    -- which picture is meant where one of the table's own has the name of another that is here; '' until somebody says so
    ADD COLUMN choice text NOT NULL DEFAULT '' CHECK (choice IN ('', 'attached', 'here', 'replace')),
    ADD COLUMN found_in bigint REFERENCES delivery ON DELETE SET NULL, -- the delivery that the table lay in
    ADD COLUMN found_item text;
CREATE UNIQUE INDEX worksheet_found ON worksheet (found_in, found_item);

-- Which of several pictures of one name a row means; row 0 stands for all rows.
CREATE TABLE worksheet_choice (
    worksheet_id bigint NOT NULL REFERENCES worksheet ON DELETE CASCADE,
    row          int NOT NULL,
    name         text NOT NULL,
    asset_id     bigint NOT NULL REFERENCES asset ON DELETE CASCADE,
    everywhere   boolean NOT NULL, -- it also goes wherever the others of that name stand
    PRIMARY KEY (worksheet_id, row, name)
);
CREATE INDEX worksheet_choice_asset ON worksheet_choice (asset_id);

-- +goose Down
DROP TABLE worksheet_choice, worksheet_own;
ALTER TABLE worksheet DROP COLUMN waiting, DROP COLUMN choice, DROP COLUMN found_in, DROP COLUMN found_item;
