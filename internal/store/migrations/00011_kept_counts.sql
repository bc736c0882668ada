-- +goose Up
-- What lists show of a product, kept beside it: how many variants it has, and how many pictures stand on it and on them. The
-- database counts, in the transaction that writes; nobody else writes here.
CREATE TABLE product_count (
    product_id       bigint PRIMARY KEY,
    ordinal          int NOT NULL,
    variants         int NOT NULL DEFAULT 0,
    pictures         int NOT NULL DEFAULT 0,
    variant_pictures int NOT NULL DEFAULT 0
);
CREATE INDEX product_without ON product_count (ordinal, product_id) WHERE pictures + variant_pictures = 0;

-- And of the catalogue as a whole; of each category, how many products stand in it.
CREATE TABLE catalogue_count (products bigint NOT NULL, variants bigint NOT NULL, categories bigint NOT NULL, without bigint NOT NULL);
CREATE TABLE category_count (category_id bigint PRIMARY KEY, products int NOT NULL DEFAULT 0);

-- +goose StatementBegin
CREATE FUNCTION count_owners() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF TG_OP <> 'DELETE' THEN
        INSERT INTO product_count (product_id, ordinal) SELECT id, ordinal FROM came WHERE kind = 'product' ORDER BY id ON CONFLICT DO NOTHING;
        UPDATE product_count c SET variants = c.variants + n.variants
        FROM (SELECT parent, count(*)::int AS variants FROM came WHERE kind = 'variant' GROUP BY parent) n WHERE c.product_id = n.parent;
        INSERT INTO category_count AS c (category_id, products)
        SELECT category, count(*) FROM came WHERE kind = 'product' AND category IS NOT NULL GROUP BY category ORDER BY category
        ON CONFLICT (category_id) DO UPDATE SET products = c.products + excluded.products;
    END IF;
    IF TG_OP <> 'INSERT' THEN
        UPDATE product_count c SET variants = c.variants - n.variants
        FROM (SELECT parent, count(*)::int AS variants FROM went WHERE kind = 'variant' GROUP BY parent) n WHERE c.product_id = n.parent;
        UPDATE category_count c SET products = c.products - n.products
        FROM (SELECT category, count(*)::int AS products FROM went WHERE kind = 'product' AND category IS NOT NULL GROUP BY category) n WHERE c.category_id = n.category;
    END IF;
    IF TG_OP = 'DELETE' THEN
        DELETE FROM product_count c USING went WHERE c.product_id = went.id;
        DELETE FROM category_count c USING went WHERE c.category_id = went.id;
        UPDATE catalogue_count c SET variants = c.variants - n.variants, categories = c.categories - n.categories
        FROM (SELECT count(*) FILTER (WHERE kind = 'variant') AS variants, count(*) FILTER (WHERE kind = 'category') AS categories FROM went) n;
    ELSIF TG_OP = 'INSERT' THEN
        UPDATE catalogue_count c SET variants = c.variants + n.variants, categories = c.categories + n.categories
        FROM (SELECT count(*) FILTER (WHERE kind = 'variant') AS variants, count(*) FILTER (WHERE kind = 'category') AS categories FROM came) n;
    ELSE
        UPDATE product_count c SET ordinal = n.ordinal FROM went o JOIN came n ON n.id = o.id WHERE c.product_id = n.id AND o.ordinal <> n.ordinal;
        -- A variant that goes to another product takes its pictures with it.
        UPDATE product_count c SET variant_pictures = (SELECT count(*) FROM owner v JOIN placement p ON p.owner_id = v.id WHERE v.parent = c.product_id)
        WHERE c.product_id IN (SELECT unnest(ARRAY[o.parent, n.parent]) FROM went o JOIN came n ON n.id = o.id WHERE o.parent IS DISTINCT FROM n.parent AND n.kind = 'variant');
    END IF;
    RETURN NULL;
END
$$;
CREATE FUNCTION count_products() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
    more bigint := 0;
    bare bigint := 0;
BEGIN
    IF TG_OP <> 'DELETE' THEN
        SELECT count(*), count(*) FILTER (WHERE pictures + variant_pictures = 0) INTO more, bare FROM came;
    END IF;
    IF TG_OP <> 'INSERT' THEN
        SELECT more - count(*), bare - count(*) FILTER (WHERE pictures + variant_pictures = 0) INTO more, bare FROM went;
    END IF;
    IF more <> 0 OR bare <> 0 THEN
        UPDATE catalogue_count SET products = products + more, without = without + bare;
    END IF;
    RETURN NULL;
END
$$;
CREATE FUNCTION count_placements() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF TG_OP <> 'DELETE' THEN
        UPDATE product_count c SET pictures = c.pictures + n.own, variant_pictures = c.variant_pictures + n.below
        FROM (SELECT CASE o.kind WHEN 'variant' THEN o.parent ELSE o.id END AS product, count(*) FILTER (WHERE o.kind = 'product')::int AS own,
                count(*) FILTER (WHERE o.kind = 'variant')::int AS below
            FROM came p JOIN owner o ON o.id = p.owner_id GROUP BY 1) n WHERE c.product_id = n.product;
    END IF;
    IF TG_OP <> 'INSERT' THEN
        UPDATE product_count c SET pictures = c.pictures - n.own, variant_pictures = c.variant_pictures - n.below
        FROM (SELECT CASE o.kind WHEN 'variant' THEN o.parent ELSE o.id END AS product, count(*) FILTER (WHERE o.kind = 'product')::int AS own,
                count(*) FILTER (WHERE o.kind = 'variant')::int AS below
            FROM went p JOIN owner o ON o.id = p.owner_id GROUP BY 1) n WHERE c.product_id = n.product;
    END IF;
    RETURN NULL;
END
$$;
-- +goose StatementEnd

INSERT INTO catalogue_count SELECT 0, count(*) FILTER (WHERE kind = 'variant'), count(*) FILTER (WHERE kind = 'category'), 0 FROM owner;
CREATE TRIGGER products_came AFTER INSERT ON product_count REFERENCING NEW TABLE AS came FOR EACH STATEMENT EXECUTE FUNCTION count_products();
CREATE TRIGGER products_went AFTER DELETE ON product_count REFERENCING OLD TABLE AS went FOR EACH STATEMENT EXECUTE FUNCTION count_products();
CREATE TRIGGER products_changed AFTER UPDATE ON product_count REFERENCING OLD TABLE AS went NEW TABLE AS came FOR EACH STATEMENT EXECUTE FUNCTION count_products();
INSERT INTO product_count SELECT o.id, o.ordinal, coalesce(v.variants, 0), coalesce(p.pictures, 0), coalesce(b.pictures, 0) FROM owner o
    LEFT JOIN (SELECT parent, count(*) AS variants FROM owner WHERE kind = 'variant' GROUP BY parent) v ON v.parent = o.id
    LEFT JOIN (SELECT owner_id, count(*) AS pictures FROM placement GROUP BY owner_id) p ON p.owner_id = o.id
    LEFT JOIN (SELECT x.parent, count(*) AS pictures FROM owner x JOIN placement y ON y.owner_id = x.id WHERE x.kind = 'variant' GROUP BY x.parent) b ON b.parent = o.id
    WHERE o.kind = 'product';
INSERT INTO category_count SELECT category, count(*) FROM owner WHERE kind = 'product' AND category IS NOT NULL GROUP BY category;
CREATE TRIGGER owners_came AFTER INSERT ON owner REFERENCING NEW TABLE AS came FOR EACH STATEMENT EXECUTE FUNCTION count_owners();
CREATE TRIGGER owners_went AFTER DELETE ON owner REFERENCING OLD TABLE AS went FOR EACH STATEMENT EXECUTE FUNCTION count_owners();
CREATE TRIGGER owners_changed AFTER UPDATE ON owner REFERENCING OLD TABLE AS went NEW TABLE AS came FOR EACH STATEMENT EXECUTE FUNCTION count_owners();
CREATE TRIGGER placements_came AFTER INSERT ON placement REFERENCING NEW TABLE AS came FOR EACH STATEMENT EXECUTE FUNCTION count_placements();
CREATE TRIGGER placements_went AFTER DELETE ON placement REFERENCING OLD TABLE AS went FOR EACH STATEMENT EXECUTE FUNCTION count_placements();
CREATE TRIGGER placements_changed AFTER UPDATE ON placement REFERENCING OLD TABLE AS went NEW TABLE AS came FOR EACH STATEMENT EXECUTE FUNCTION count_placements();

-- A page of products in the order of the catalogue.
DROP INDEX owner_ordinal;
CREATE INDEX owner_ordinal ON owner (kind, ordinal, id);
CREATE INDEX owner_in_category ON owner (category, ordinal, id);
DROP INDEX owner_category;

-- Who has a barcode, however it is written: in the one form in which they compare.
CREATE INDEX owner_gtin ON owner (lpad(translate(barcode, E' -\u00a0', ''), 14, '0')) WHERE barcode <> '';

CREATE INDEX upload_page ON upload (delivery_id, id);
DROP INDEX upload_delivery;

-- What was sent into a delivery, kept in the same way: a delivery may have a hundred thousand loose pictures.
CREATE TABLE upload_count (
    delivery_id bigint PRIMARY KEY REFERENCES delivery ON DELETE CASCADE,
    files       int NOT NULL,
    bytes       numeric NOT NULL,
    entries     bigint NOT NULL,
    unknown     int NOT NULL -- of how many it is not known yet what they hold
);
INSERT INTO upload_count SELECT delivery_id, count(*), sum(bytes), coalesce(sum(entries), 0), count(*) FILTER (WHERE entries IS NULL) FROM upload GROUP BY delivery_id;
-- +goose StatementBegin
CREATE FUNCTION count_uploads() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF TG_OP <> 'DELETE' THEN
        INSERT INTO upload_count AS c
        SELECT delivery_id, count(*), sum(bytes), coalesce(sum(entries), 0), count(*) FILTER (WHERE entries IS NULL) FROM came GROUP BY delivery_id ORDER BY delivery_id
        ON CONFLICT (delivery_id) DO UPDATE SET files = c.files + excluded.files, bytes = c.bytes + excluded.bytes, entries = c.entries + excluded.entries,
            unknown = c.unknown + excluded.unknown;
    END IF;
    IF TG_OP <> 'INSERT' THEN
        UPDATE upload_count c SET files = c.files - g.files, bytes = c.bytes - g.bytes, entries = c.entries - g.entries, unknown = c.unknown - g.unknown
        FROM (SELECT delivery_id, count(*) AS files, sum(bytes) AS bytes, coalesce(sum(entries), 0) AS entries, count(*) FILTER (WHERE entries IS NULL) AS unknown
            FROM went GROUP BY delivery_id) g WHERE g.delivery_id = c.delivery_id;
    END IF;
    RETURN NULL;
END
$$;
-- +goose StatementEnd
CREATE TRIGGER uploads_came AFTER INSERT ON upload REFERENCING NEW TABLE AS came FOR EACH STATEMENT EXECUTE FUNCTION count_uploads();
CREATE TRIGGER uploads_went AFTER DELETE ON upload REFERENCING OLD TABLE AS went FOR EACH STATEMENT EXECUTE FUNCTION count_uploads();
CREATE TRIGGER uploads_changed AFTER UPDATE ON upload REFERENCING OLD TABLE AS went NEW TABLE AS came FOR EACH STATEMENT EXECUTE FUNCTION count_uploads();

-- +goose Down
CREATE INDEX upload_delivery ON upload (delivery_id);
DROP INDEX upload_page;
DROP TABLE upload_count;
DROP TRIGGER uploads_came ON upload;
DROP TRIGGER uploads_went ON upload;
DROP TRIGGER uploads_changed ON upload;
DROP FUNCTION count_uploads;
CREATE INDEX owner_category ON owner (category);
DROP INDEX owner_ordinal, owner_gtin, owner_in_category;
CREATE INDEX owner_ordinal ON owner (kind, ordinal);
DROP TRIGGER owners_came ON owner;
DROP TRIGGER owners_went ON owner;
DROP TRIGGER owners_changed ON owner;
DROP TRIGGER placements_came ON placement;
DROP TRIGGER placements_went ON placement;
DROP TRIGGER placements_changed ON placement;
DROP TABLE product_count, category_count, catalogue_count;
DROP FUNCTION count_owners, count_products, count_placements;
