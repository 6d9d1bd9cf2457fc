<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Live;

use mysqli;
use mysqli_result;

/**
 * Troubles that are planted in a server, one by one, as applications and people make them.
 */
final class Troubles
{
    /** What each is to be found as: trouble => rule of its finding. */
    public const RULES = [
        'join without an index' => 'reads-without-index',
        'lock contention' => 'held-up',
        'deadlock' => 'deadlock',
        'temporary tables on disk' => 'temporary-tables-on-disk',
        'a lookup for each row' => 'n+1',
        'errors' => 'fails',
        'a changed plan' => 'plan-changed',
        'a needless index' => 'needless-index',
        'outage and restart' => 'restarted',
        'a renamed schema' => 'missing-table',
    ];

    private const BY_CUSTOMER = 'SELECT COUNT(*), SUM(total) FROM orders WHERE customer_id = ';

    /** A join that nobody made an index for. */
    public const JOIN = 'SELECT p.name, SUM(l.kilos) FROM order_lines l JOIN products p ON p.id = l.product_id WHERE l.order_id = 811 AND '
        .'l.kilos > 5 GROUP BY p.name';

    private mysqli $client;

    public function __construct(private readonly PrivateServer $server)
    {
    }

    /** Builds what they happen to, and an account that watches with what rights it needs. */
    public function prepare(int $orders): void
    {
        $pdo = $this->server->pdo();
        OrderWorld::build($pdo, $orders);
        $pdo->exec('CREATE INDEX by_customer ON orders (customer_id)');
        $pdo->exec('CREATE DATABASE depot');
        $pdo->exec('CREATE TABLE depot.crate (id INT PRIMARY KEY, bay INT) ENGINE=InnoDB');
        $pdo->exec("CREATE USER watcher@'%' IDENTIFIED BY 'glasshouse'");
        $pdo->exec("GRANT PROCESS ON *.* TO watcher@'%'");
        foreach (['performance_schema.*', 'depot.*', 'yard.*', OrderWorld::SCHEMA.'.*'] as $what) {
            $pdo->exec("GRANT SELECT ON {$what} TO watcher@'%'");
        }
        $pdo->exec('GRANT INDEX, ALTER, CREATE, INSERT ON '.OrderWorld::SCHEMA.".* TO watcher@'%'");
        $pdo->exec('GRANT ALL ON `'.OrderWorld::SCHEMA."_rehearsal`.* TO watcher@'%'");
        $this->client = $this->server->session(OrderWorld::SCHEMA);
    }

    /** What runs as it should, before anything goes wrong. */
    public function peace(): void
    {
        for ($i = 0; $i < 20; $i++) {
            $this->ask(self::BY_CUSTOMER.$i);
        }
        $this->ask('SELECT bay FROM depot.crate WHERE id = 4');
    }

    public function plant(string $trouble): void
    {
        match ($trouble) {
            'join without an index' => $this->atLength(self::JOIN),
            'lock contention' => $this->contention(),
            'deadlock' => $this->deadlock(),
            'temporary tables on disk' => $this->onDisk(),
            'a lookup for each row' => $this->lookups(),
            'errors' => $this->errors(),
            'a changed plan' => $this->otherPlan(),
            'a needless index' => $this->ask('CREATE INDEX by_state ON orders (state)', 'CREATE INDEX by_state_and_day ON orders (state, '
                .'ordered_at)'),
            'outage and restart' => $this->outage(),
            default => $this->renamed(),
        };
    }

    /** Until it has taken a second, on whatever machine. */
    private function atLength(string $sql): void
    {
        for ($began = hrtime(true), $i = 0; hrtime(true) - $began < 1e9 || $i < 20; $i++) {
            $this->ask($sql);
        }
    }

    /** After all sessions were closed. */
    public function again(): void
    {
        $this->client = $this->server->session(OrderWorld::SCHEMA);
    }

    private function contention(): void
    {
        $idle = $this->server->session(OrderWorld::SCHEMA);
        $idle->query('BEGIN');
        $idle->query('UPDATE customers SET grade = grade WHERE id = 1');
        $this->server->session(OrderWorld::SCHEMA)->query('UPDATE customers SET grade = grade WHERE id = 1', MYSQLI_ASYNC);
    }

    private function deadlock(): void
    {
        $sessions = [$this->server->session('depot'), $this->server->session('depot')];
        $sessions[0]->query('INSERT INTO crate VALUES (1, 1), (2, 2)');
        foreach ($sessions as $i => $session) {
            $session->query('BEGIN');
            $session->query('UPDATE crate SET bay = 5 WHERE id = '.($i + 1));
        }
        $sessions[0]->query('UPDATE crate SET bay = 6 WHERE id = 2', MYSQLI_ASYNC);
        usleep(200_000);
        $sessions[1]->query('UPDATE crate SET bay = 6 WHERE id = 1', MYSQLI_ASYNC);
        usleep(300_000);
    }

    private function onDisk(): void
    {
        $this->atLength('SELECT GROUP_CONCAT(note), customer_id FROM orders GROUP BY customer_id, total ORDER BY 1');
    }

    private function lookups(): void
    {
        for ($round = 0; $round < 3; $round++) {
            $list = $this->client->query('SELECT id, name FROM products ORDER BY name LIMIT 60');
            foreach ($list instanceof mysqli_result ? $list->fetch_all(MYSQLI_ASSOC) : [] as $row) {
                $this->ask("SELECT email FROM customers WHERE id = {$row['id']}");
            }
        }
    }

    private function errors(): void
    {
        for ($i = 0; $i < 9; $i++) {
            $this->ask("INSERT INTO products (id, name) VALUES (7, 'Zephyrine {$i}')");
        }
    }

    private function otherPlan(): void
    {
        $this->ask('DROP INDEX by_customer ON orders');
        for ($i = 0; $i < 20; $i++) {
            $this->ask(self::BY_CUSTOMER.$i);
        }
    }

    private function outage(): void
    {
        $this->server->closeSessions();
        $this->server->down();
        // The server tells to the second since when it runs.
        sleep(4);
        $this->server->up();
        $this->again();
    }

    private function renamed(): void
    {
        $this->ask('CREATE DATABASE yard', 'RENAME TABLE depot.crate TO yard.crate');
        for ($i = 0; $i < 9; $i++) {
            $this->ask("SELECT bay FROM depot.crate WHERE id = {$i}");
        }
    }

    private function ask(string ...$statements): void
    {
        foreach ($statements as $sql) {
            $answer = $this->client->query(rtrim($sql, '; '));
            if ($answer instanceof mysqli_result) {
                $answer->free();
            }
        }
    }
}
