<?php

declare(strict_types=1);

namespace Tests\Feature;

use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Fingerprinter;
use Fulcrion\Tools\Live\PrivateServer;
use PDOException;
use Tests\TestCase;

/**
 * A statement has one fingerprint, whether its text comes from a log or as the server digested it.
 */
final class DigestTest extends TestCase
{
    private const STATEMENTS = [
        'SELECT DISTINCT a FROM t',
        'SELECT DISTINCTROW a FROM t',
        'SELECT a FROM t WHERE a != 3',
        'SELECT a FROM t WHERE a <> 3',
        'SELECT @@version',
        'SELECT @x',
        'SELECT @@session.sql_mode',
        'SELECT USER()',
        'SELECT CURRENT_USER()',
        'SELECT SESSION_USER()',
        'SELECT SYSTEM_USER()',
        'SELECT NOW()',
        'SELECT CURRENT_TIMESTAMP',
        'SELECT LOCALTIME',
        'SELECT CURDATE()',
        'SELECT CURRENT_DATE',
        'SELECT CURTIME()',
        'SELECT SUBSTR(b,1,2) FROM t',
        'SELECT SUBSTRING(b,1,2) FROM t',
        'SELECT MID(b,1,2) FROM t',
        'SELECT STD(a) FROM t',
        'SELECT STDDEV(a) FROM t',
        'SELECT VARIANCE(a) FROM t',
        'SELECT VAR_POP(a) FROM t',
        'SELECT a FROM t WHERE b RLIKE \'x\'',
        'SELECT a FROM t WHERE b REGEXP \'x\'',
        'SELECT a FROM t WHERE a = ANY (SELECT v FROM u)',
        'SELECT a FROM t WHERE a = SOME (SELECT v FROM u)',
        'SELECT DATABASE()',
        'SELECT SCHEMA()',
        'SELECT COUNT(*) FROM t',
        'SELECT count(a), max(a), min(a), sum(a), avg(a) FROM t',
        'SELECT a FROM t WHERE a BETWEEN 1 AND 5 OR a IN (1,2,3)',
        'SELECT a FROM t WHERE a IN (1)',
        'SELECT -1, +2, 3.5, 1e3, 0x1F, b\'01\', NULL, TRUE, FALSE FROM t',
        'SELECT \'x\', N\'y\', _utf8mb4\'z\' FROM t',
        'SELECT a AS \'alias one\' FROM t',
        'SELECT a `b c` FROM t',
        'SELECT t.a FROM g.t AS t INNER JOIN u ON u.t_id = t.id LEFT OUTER JOIN u w ON w.id=t.id',
        'SELECT a FROM t CROSS JOIN u',
        'SELECT a FROM t, u WHERE t.id = u.id AND NOT a && 1 || 0',
        'SELECT a FROM t ORDER BY a DESC, b ASC LIMIT 5 OFFSET 2',
        'SELECT a FROM t LIMIT 2, 5',
        'SELECT a FROM t GROUP BY a WITH ROLLUP HAVING a > 1',
        'INSERT INTO t (id, a) VALUES (1, 2)',
        'INSERT INTO t (id, a) VALUES (11, 2), (12, 3)',
        'INSERT t SET id = 5, a = 3',
        'REPLACE INTO t (id, a) VALUES (1, 2)',
        'UPDATE t SET a = a + 1, b = \'x\' WHERE id = 4',
        'DELETE FROM t WHERE id = 4',
        'INSERT INTO t (id) VALUES (3) ON DUPLICATE KEY UPDATE a = VALUES(a)',
        'SELECT IF(a > 1, \'x\', \'y\'), IFNULL(a, 0), COALESCE(a, b), CONCAT(a, b) FROM t',
        'SELECT CASE WHEN a > 1 THEN \'x\' ELSE \'y\' END FROM t',
        'SELECT CAST(a AS CHAR), CONVERT(a, UNSIGNED INTEGER) FROM t',
        'SELECT DATE_ADD(d, INTERVAL 1 DAY), d + INTERVAL 2 HOUR FROM t',
        'SELECT EXTRACT(YEAR FROM d), YEAR(d), DATE(d), TIMESTAMP(d) FROM t',
        'SELECT GROUP_CONCAT(b ORDER BY b SEPARATOR \',\') FROM t',
        'SELECT JSON_EXTRACT(j, \'$.a\') FROM t',
        'SELECT a FROM t FOR UPDATE',
        'SELECT a FROM t LOCK IN SHARE MODE',
        'SELECT SQL_NO_CACHE a FROM t',
        'SELECT SQL_CALC_FOUND_ROWS a FROM t LIMIT 1',
        'WITH x AS (SELECT a FROM t) SELECT * FROM x',
        'SELECT a FROM t UNION ALL SELECT v FROM u',
        'SELECT a, ROW_NUMBER() OVER (PARTITION BY b ORDER BY a) FROM t',
        'SELECT a FROM t WHERE b LIKE \'x%\' ESCAPE \'!\'',
        'SELECT a FROM t WHERE a IS NOT NULL AND b IS NULL',
        'SELECT a FROM t WHERE EXISTS (SELECT 1 FROM u WHERE u.id = t.id)',
        'SHOW TABLES',
        'SHOW COLUMNS FROM t',
        'SHOW FIELDS FROM t',
        'SET @x = 5',
        'SET NAMES utf8mb4',
        'SET SESSION sort_buffer_size = 100000',
        'BEGIN',
        'COMMIT',
        'START TRANSACTION',
        'ROLLBACK',
        'CREATE TABLE c1 (id INTEGER, v CHARACTER(5), w DECIMAL(10,2) DEFAULT 5)',
        'DROP TABLE IF EXISTS c1',
        'ALTER TABLE t ADD COLUMN zz INT',
        'TRUNCATE TABLE u',
        'SELECT a /* why */ FROM t -- end',
        'SELECT a FROM t WHERE a <=> 3',
        'SELECT a DIV 2, a % 3, a MOD 4, a & 1, a | 2, a ^ 3, ~a, a << 1, a >> 2, !a FROM t',
        'SELECT * FROM t IGNORE INDEX (PRIMARY)',
        'SELECT a FROM t USE INDEX (PRIMARY) WHERE id=3',
        'SELECT STRAIGHT_JOIN a FROM t',
        'SELECT a FROM t WHERE (a, b) = (1, \'x\')',
        'SELECT a FROM t WHERE (a, b) IN ((1, \'x\'), (2, \'y\'))',
        'ANALYZE TABLE t',
        'SELECT lower(b), UPPER(b), length(b), char_length(b), trim(b) FROM t',
        'SELECT rand(), uuid(), sleep(0)',
        'SELECT POSITION(\'a\' IN b) FROM t',
        'CALL nothing()',
        'SELECT `id`,`a` FROM `g`.`t` WHERE `id`=1',
    ];

    public function test_a_text_and_its_digest_are_the_same_statement(): void
    {
        $server = PrivateServer::start('--performance-schema=ON', '--performance-schema-max-digest-length=4096');
        try {
            $pdo = $server->pdo();
            $pdo->exec('CREATE DATABASE g');
            $pdo->exec('USE g');
            $pdo->exec('CREATE TABLE t (id INT PRIMARY KEY, a INT, b VARCHAR(20), d DATETIME, j JSON)');
            $pdo->exec('CREATE TABLE u (id INT PRIMARY KEY, t_id INT, v INT)');
            $fingerprinter = new Fingerprinter(Dialect::MariaDb);
            $differ = [];
            foreach (self::STATEMENTS as $sql) {
                $pdo->exec('TRUNCATE TABLE performance_schema.events_statements_summary_by_digest');
                try {
                    $statement = $pdo->query($sql);
                    $statement->fetchAll();
                    $statement->closeCursor();
                } catch (PDOException) {
                    // What fails is digested all the same.
                }
                $digest = $pdo->query("SELECT DIGEST_TEXT FROM performance_schema.events_statements_summary_by_digest
                    WHERE DIGEST_TEXT NOT LIKE '%summary_by_digest%'")->fetchColumn();
                self::assertIsString($digest, $sql);
                if ($fingerprinter->of($sql)->id !== $fingerprinter->of($digest)->id) {
                    $differ[$sql] = [$fingerprinter->of($sql)->text, $fingerprinter->of($digest)->text];
                }
            }
            self::assertSame([], $differ);
        } finally {
            $server->remove();
        }
    }
}
