<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Live;

use App\Platform\Support\ThrowingPdo;

/**
 * A shop's schema with uneven data and no index but primary keys, and statements about it that nobody wrote with an adviser in mind.
 */
final class OrderWorld
{
    public const SCHEMA = 'farmshop';

    public static function build(ThrowingPdo $pdo, int $orders = 60_000): void
    {
        $schema = self::SCHEMA;
        $customers = intdiv($orders, 30);
        $lines = 3 * $orders;
        $pdo->exec("DROP DATABASE IF EXISTS {$schema}");
        $pdo->exec("CREATE DATABASE {$schema}");
        $pdo->exec("USE {$schema}");
        $pdo->exec('CREATE TABLE customers (id INT PRIMARY KEY, town VARCHAR(30), email VARCHAR(60), since DATE, grade CHAR(1), left_on DATE
            NULL) ENGINE=InnoDB');
        $pdo->exec("INSERT INTO customers SELECT seq, CONCAT('town ', FLOOR(POW(RAND(1), 2) * 80)), CONCAT('c', seq,
            '@brackenfold.example'),
            '2015-01-01' + INTERVAL FLOOR(RAND(2) * 4000) DAY, SUBSTR('AAAAAABBC', 1 + FLOOR(RAND(3) * 9), 1),
            IF(RAND(4) < 0.03, '2026-01-01', NULL) FROM seq_1_to_{$customers}");
        $pdo->exec('CREATE TABLE products (id INT PRIMARY KEY, kind VARCHAR(20), name VARCHAR(40), price INT) ENGINE=InnoDB');
        $pdo->exec("INSERT INTO products SELECT seq, CONCAT('kind ', seq % 12), CONCAT('product ', seq), FLOOR(RAND(5) * 5000)
            FROM seq_1_to_800");
        $pdo->exec('CREATE TABLE orders (id INT PRIMARY KEY, customer_id INT, ordered_at DATETIME, state VARCHAR(10), channel VARCHAR(10),
            total INT, note VARCHAR(80)) ENGINE=InnoDB');
        // Few customers have most of the orders; nearly all orders are long done.
        $pdo->exec("INSERT INTO orders SELECT seq, 1 + FLOOR(POW(RAND(6), 3) * {$customers}), '2026-01-01' + INTERVAL FLOOR(seq * 480)
            SECOND, IF(RAND(7) < 0.97, 'done', ELT(1 + FLOOR(RAND(8) * 3), 'open', 'packed', 'held')), ELT(1 +
                FLOOR(RAND(9) * 3), 'web', 'shop',
            'phone'), FLOOR(RAND(10) * 90000), CONCAT('note ', FLOOR(RAND(11) * 100000)) FROM seq_1_to_{$orders}");
        $pdo->exec('CREATE TABLE order_lines (id INT PRIMARY KEY, order_id INT, product_id INT, kilos INT, price INT, packed_at DATETIME
            NULL) ENGINE=InnoDB');
        $pdo->exec("INSERT INTO order_lines SELECT seq, 1 + FLOOR(RAND(12) * {$orders}), 1 + FLOOR(POW(RAND(13), 2) * 800),
            FLOOR(RAND(14) * 400), FLOOR(RAND(15) * 9000), IF(RAND(16) < 0.9, '2026-01-01' + INTERVAL FLOOR(seq * 160) SECOND, NULL)
            FROM seq_1_to_{$lines}");
        $pdo->query('ANALYZE TABLE customers, products, orders, order_lines')->fetchAll();
    }

    /**
     * @return list<string>
     */
    public static function statements(): array
    {
        return [
            'SELECT id, total FROM orders WHERE customer_id = 411',
            'SELECT COUNT(*) FROM orders WHERE customer_id = 3',
            "SELECT id, note FROM orders WHERE state = 'held'",
            "SELECT id, note FROM orders WHERE state = 'done' AND note = 'note 777'",
            "SELECT SUM(total) FROM orders WHERE ordered_at >= '2026-11-20'",
            "SELECT SUM(total) FROM orders WHERE ordered_at >= '2026-02-01'",
            "SELECT SUM(total) FROM orders WHERE ordered_at BETWEEN '2026-05-01' AND '2026-05-03' AND channel = 'shop'",
            "SELECT * FROM orders WHERE customer_id = 55 AND ordered_at >= '2026-06-01' ORDER BY ordered_at DESC LIMIT 10",
            "SELECT * FROM orders WHERE channel = 'phone' ORDER BY ordered_at DESC LIMIT 20",
            'SELECT id, ordered_at FROM orders ORDER BY ordered_at DESC LIMIT 25',
            'SELECT id, total FROM orders ORDER BY total DESC LIMIT 5',
            "SELECT state, COUNT(*) FROM orders WHERE ordered_at >= '2026-11-01' GROUP BY state",
            "SELECT customer_id, SUM(total) FROM orders WHERE channel = 'web' GROUP BY customer_id ORDER BY 2 DESC LIMIT 10",
            "SELECT id FROM orders WHERE note LIKE 'note 123%'",
            "SELECT id, total FROM orders WHERE customer_id IN (12, 700, 901) AND state = 'open'",
            'SELECT id FROM orders WHERE total > 89900',
            'SELECT id FROM orders WHERE total > 20000 AND channel = \'web\' AND customer_id = 17',
            "SELECT MAX(ordered_at) FROM orders WHERE customer_id = 88 AND state = 'done'",
            'SELECT o.ordered_at, SUM(l.kilos) FROM orders o JOIN order_lines l ON l.order_id = o.id WHERE o.customer_id = 203 AND '
                ."o.ordered_at >= '2026-03-01' GROUP BY o.ordered_at",
            'SELECT l.kilos, l.price FROM order_lines l WHERE l.order_id = 4711',
            'SELECT SUM(l.kilos * l.price) FROM order_lines l JOIN products p ON p.id = l.product_id WHERE p.name = \'product 640\'',
            "SELECT p.kind, SUM(l.kilos) FROM order_lines l JOIN products p ON p.id = l.product_id JOIN orders o ON o.id = l.order_id
                WHERE o.ordered_at >= '2026-11-24' GROUP BY p.kind",
            "SELECT c.email, COUNT(*) FROM customers c JOIN orders o ON o.customer_id = c.id WHERE c.town = 'town 61' GROUP BY c.email",
            "SELECT c.email, o.id FROM customers c JOIN orders o ON o.customer_id = c.id WHERE c.town = 'town 7' AND o.state = 'held'",
            "SELECT c.id FROM customers c LEFT JOIN orders o ON o.customer_id = c.id AND o.state = 'open' WHERE
                c.grade = 'C' AND o.id IS NULL",
            'SELECT o.id, o.total, c.email FROM orders o JOIN customers c ON c.id = o.customer_id WHERE o.state =
                \'packed\' AND c.grade = \'C\'',
            'SELECT product_id, COUNT(*) FROM order_lines WHERE packed_at IS NULL GROUP BY product_id ORDER BY 2 DESC LIMIT 10',
            "SELECT id, order_id FROM order_lines WHERE packed_at >= '2026-11-25' AND kilos > 350",
            'SELECT order_id, SUM(kilos) FROM order_lines WHERE product_id = 799 GROUP BY order_id',
            'SELECT COUNT(DISTINCT order_id) FROM order_lines WHERE product_id = 2',
            'SELECT AVG(price) FROM order_lines WHERE kilos = 33 AND product_id = 40',
            'SELECT o.id FROM orders o WHERE o.customer_id = 9 AND EXISTS (SELECT 1 FROM order_lines l WHERE
                l.order_id = o.id AND l.kilos > '
                .'390)',
            "SELECT id FROM customers WHERE email = 'c815@brackenfold.example'",
            "SELECT town, COUNT(*) FROM customers WHERE since >= '2025-06-01' GROUP BY town",
            'SELECT id, email FROM customers WHERE left_on IS NOT NULL AND grade = \'A\'',
            'SELECT SUM(kilos) FROM order_lines',
            'SELECT o.channel, SUM(l.price) FROM orders o JOIN order_lines l ON l.order_id = o.id WHERE l.product_id
                = 611 GROUP BY o.channel',
            "SELECT o.id, o.ordered_at FROM orders o JOIN customers c ON c.id = o.customer_id WHERE c.email = 'c30@brackenfold.example'
                ORDER BY o.ordered_at DESC LIMIT 5",
            "SELECT l.id FROM order_lines l JOIN orders o ON o.id = l.order_id WHERE o.state = 'held' AND l.packed_at IS NULL",
            'SELECT total FROM orders WHERE customer_id = 1500 AND total BETWEEN 100 AND 50000 ORDER BY total LIMIT 3',
        ];
    }
}
