<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Demo;

/**
 * A busy table of the purchasing desk on our own MariaDB, with an index too few, one too many and one nobody reads by.
 */
final readonly class DeliveryNotes
{
    public const TABLE = 'CREATE TABLE IF NOT EXISTS brackenfold.delivery_note (note_id INT PRIMARY KEY, buyer VARCHAR(40) NOT NULL, '
        .'delivered_on DATE NOT NULL, state VARCHAR(12) NOT NULL, weight_kg DECIMAL(9, 2) NOT NULL, driver VARCHAR(40) NOT NULL, KEY '
        .'by_state (state), KEY by_state_and_day (state, delivered_on), KEY by_driver (driver))';

    /** Rows made from their numbers, so that they are the same everywhere. */
    public const ROWS = "INSERT IGNORE INTO brackenfold.delivery_note SELECT seq, CONCAT('buyer ', LPAD(seq * 7919 % 400, 3, '0')), "
        ."DATE '2026-05-01' + INTERVAL (seq * 104729 % 200) DAY, ELT(1 + seq % 4, 'planned', 'loaded', 'left', 'signed'), 40 + seq * 31 "
        ."% 900 + seq % 7 / 4, CONCAT('driver ', seq * 17 % 60) FROM brackenfold.seq_1_to_60000 WHERE NOT EXISTS (SELECT 1 FROM "
        .'brackenfold.delivery_note)';

    /**
     * What the desk asks all day long.
     *
     * @return list<string>
     */
    public static function asked(int $number): array
    {
        $buyer = sprintf('buyer %03d', ($number * 37) % 400);
        $day = gmdate('Y-m-d', 1_777_593_600 + (($number * 53) % 190) * 86_400);

        return [
            "SELECT note_id, delivered_on, weight_kg FROM brackenfold.delivery_note WHERE buyer = '{$buyer}' AND delivered_on "
                .">= '{$day}' ORDER BY delivered_on",
            "SELECT buyer, SUM(weight_kg) AS kilos FROM brackenfold.delivery_note WHERE delivered_on = '{$day}' GROUP BY buyer",
            "SELECT COUNT(*) FROM brackenfold.delivery_note WHERE state = 'left' AND delivered_on = '{$day}'",
        ];
    }
}
