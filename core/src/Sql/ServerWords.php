<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql;

/**
 * Words MariaDB reads as its own where they are not quoted (information_schema.KEYWORDS of 10.11). In what it keeps of statements it writes
 * them in capitals, also where they name a column, and of several that mean the same always one.
 */
final class ServerWords
{
    private const WORDS = 'ACCESSIBLE ACCOUNT ACTION ADD ADMIN AFTER AGAINST AGGREGATE ALGORITHM ALL ALTER ALWAYS
        ANALYZE AND ANY AS ASC ASCII ASENSITIVE
        AT ATOMIC AUTHORS AUTO AUTOEXTEND_SIZE AUTO_INCREMENT AVG AVG_ROW_LENGTH BACKUP BEFORE BEGIN BETWEEN BIGINT BINARY BINLOG BIT
        BLOB BLOCK BODY BOOL BOOLEAN BOTH BTREE BY BYTE CACHE CALL CASCADE CASCADED CASE CATALOG_NAME CHAIN CHANGE CHANGED CHANNEL CHAR
        CHARACTER CHARSET CHECK CHECKPOINT CHECKSUM CIPHER CLASS_ORIGIN CLIENT CLOB CLOSE COALESCE CODE COLLATE COLLATION COLUMN COLUMNS
        COLUMN_ADD COLUMN_CHECK COLUMN_CREATE COLUMN_DELETE COLUMN_GET COLUMN_NAME COMMENT COMMIT COMMITTED COMPACT COMPLETION
        COMPRESSED CONCURRENT CONDITION CONNECTION CONSISTENT CONSTRAINT CONSTRAINT_CATALOG CONSTRAINT_NAME CONSTRAINT_SCHEMA CONTAINS
        CONTEXT CONTINUE CONTRIBUTORS CONVERT CPU CREATE CROSS CUBE CURRENT CURRENT_DATE CURRENT_POS CURRENT_ROLE CURRENT_TIME
        CURRENT_TIMESTAMP CURRENT_USER CURSOR CURSOR_NAME CYCLE DATA DATABASE DATABASES DATAFILE DATE DATETIME DAY DAY_HOUR
        DAY_MICROSECOND DAY_MINUTE DAY_SECOND DEALLOCATE DEC DECIMAL DECLARE DEFAULT DEFINER DELAYED DELAY_KEY_WRITE DELETE
        DELETE_DOMAIN_ID DESC DESCRIBE DES_KEY_FILE DETERMINISTIC DIAGNOSTICS DIRECTORY DISABLE DISCARD DISK DISTINCT DISTINCTROW DIV DO
        DOUBLE DO_DOMAIN_IDS DROP DUAL DUMPFILE DUPLICATE DYNAMIC EACH ELSE ELSEIF ELSIF EMPTY ENABLE ENCLOSED END ENDS ENGINE ENGINES
        ENUM ERROR ERRORS ESCAPE ESCAPED EVENT EVENTS EVERY EXAMINED EXCEPT EXCEPTION EXCHANGE EXCLUDE EXECUTE EXISTS EXIT EXPANSION
        EXPIRE EXPLAIN EXPORT EXTENDED EXTENT_SIZE FALSE FAST FAULTS FEDERATED FETCH FIELDS FILE FIRST FIXED FLOAT FLOAT4 FLOAT8 FLUSH
        FOLLOWING FOLLOWS FOR FORCE FOREIGN FORMAT FOUND FROM FULL FULLTEXT FUNCTION GENERAL GENERATED GET GET_FORMAT GLOBAL GOTO GRANT
        GRANTS GROUP HANDLER HARD HASH HAVING HELP HIGH_PRIORITY HISTORY HOST HOSTS HOUR HOUR_MICROSECOND HOUR_MINUTE HOUR_SECOND ID
        IDENTIFIED IF IGNORE IGNORED IGNORE_DOMAIN_IDS IGNORE_SERVER_IDS IMMEDIATE IMPORT IN INCREMENT INDEX INDEXES INFILE INITIAL_SIZE
        INNER INOUT INSENSITIVE INSERT INSERT_METHOD INSTALL INT INT1 INT2 INT3 INT4 INT8 INTEGER INTERSECT INTERVAL INTO INVISIBLE
        INVOKER IO IO_THREAD IPC IS ISOLATION ISOPEN ISSUER ITERATE JOIN JSON JSON_TABLE KEY KEYS KEY_BLOCK_SIZE KILL LANGUAGE LAST
        LASTVAL LAST_VALUE LEADING LEAVE LEAVES LEFT LESS LEVEL LIKE LIMIT LINEAR LINES LIST LOAD LOCAL LOCALTIME LOCALTIMESTAMP LOCK
        LOCKED LOCKS LOGFILE LOGS LONG LONGBLOB LONGTEXT LOOP LOW_PRIORITY MASTER MASTER_CONNECT_RETRY MASTER_DELAY
        MASTER_DEMOTE_TO_REPLICA MASTER_DEMOTE_TO_SLAVE MASTER_GTID_POS MASTER_HEARTBEAT_PERIOD MASTER_HOST MASTER_LOG_FILE
        MASTER_LOG_POS MASTER_PASSWORD MASTER_PORT MASTER_SERVER_ID MASTER_SSL MASTER_SSL_CA MASTER_SSL_CAPATH MASTER_SSL_CERT
        MASTER_SSL_CIPHER MASTER_SSL_CRL MASTER_SSL_CRLPATH MASTER_SSL_KEY MASTER_SSL_VERIFY_SERVER_CERT MASTER_USER MASTER_USE_GTID
        MATCH MAXVALUE MAX_CONNECTIONS_PER_HOUR MAX_QUERIES_PER_HOUR MAX_ROWS MAX_SIZE MAX_STATEMENT_TIME MAX_UPDATES_PER_HOUR
        MAX_USER_CONNECTIONS MEDIUM MEDIUMBLOB MEDIUMINT MEDIUMTEXT MEMORY MERGE MESSAGE_TEXT MICROSECOND MIDDLEINT MIGRATE MINUS MINUTE
        MINUTE_MICROSECOND MINUTE_SECOND MINVALUE MIN_ROWS MOD MODE MODIFIES MODIFY MONITOR MONTH MUTEX MYSQL MYSQL_ERRNO NAME NAMES
        NATIONAL NATURAL NCHAR NESTED NEVER NEXT NEXTVAL NO NOCACHE NOCYCLE NODEGROUP NOMAXVALUE NOMINVALUE NONE NOT NOTFOUND NOWAIT
        NO_WAIT NO_WRITE_TO_BINLOG NULL NUMBER NUMERIC NVARCHAR OF OFFSET OLD_PASSWORD ON ONE ONLINE ONLY OPEN OPTIMIZE OPTION
        OPTIONALLY OPTIONS OR ORDER ORDINALITY OTHERS OUT OUTER OUTFILE OVER OVERLAPS OWNER PACKAGE PACK_KEYS PAGE PAGE_CHECKSUM PARSER
        PARSE_VCOL_EXPR PARTIAL PARTITION PARTITIONING PARTITIONS PASSWORD PATH PERIOD PERSISTENT PHASE PLUGIN PLUGINS PORT PORTION
        PRECEDES PRECEDING PRECISION PREPARE PRESERVE PREV PREVIOUS PRIMARY PRIVILEGES PROCEDURE PROCESS PROCESSLIST PROFILE PROFILES
        PROXY PURGE QUARTER QUERY QUICK RAISE RANGE RAW READ READS READ_ONLY READ_WRITE REAL REBUILD RECOVER RECURSIVE REDOFILE
        REDO_BUFFER_SIZE REDUNDANT REFERENCES REF_SYSTEM_ID REGEXP RELAY RELAYLOG RELAY_LOG_FILE RELAY_LOG_POS RELAY_THREAD RELEASE
        RELOAD REMOVE RENAME REORGANIZE REPAIR REPEAT REPEATABLE REPLACE REPLAY REPLICA REPLICAS REPLICATION REPLICA_POS REQUIRE RESET
        RESIGNAL RESTART RESTORE RESTRICT RESUME RETURN RETURNED_SQLSTATE RETURNING RETURNS REUSE REVERSE REVOKE RIGHT RLIKE ROLE
        ROLLBACK ROLLUP ROUTINE ROW ROWCOUNT ROWNUM ROWS ROWTYPE ROW_COUNT ROW_FORMAT ROW_NUMBER RTREE SAVEPOINT SCHEDULE SCHEMA SCHEMAS
        SCHEMA_NAME SECOND SECOND_MICROSECOND SECURITY SELECT SENSITIVE SEPARATOR SEQUENCE SERIAL SERIALIZABLE SERVER SESSION SET SETVAL
        SHARE SHOW SHUTDOWN SIGNAL SIGNED SIMPLE SKIP SLAVE SLAVES SLAVE_POS SLOW SMALLINT SNAPSHOT SOCKET SOFT SOME SONAME SOUNDS
        SOURCE SPATIAL SPECIFIC SQL SQLEXCEPTION SQLSTATE SQLWARNING SQL_BIG_RESULT SQL_BUFFER_RESULT SQL_CACHE SQL_CALC_FOUND_ROWS
        SQL_NO_CACHE SQL_SMALL_RESULT SQL_THREAD SQL_TSI_DAY SQL_TSI_HOUR SQL_TSI_MINUTE SQL_TSI_MONTH SQL_TSI_QUARTER SQL_TSI_SECOND
        SQL_TSI_WEEK SQL_TSI_YEAR SSL STAGE START STARTING STARTS STATEMENT STATS_AUTO_RECALC STATS_PERSISTENT STATS_SAMPLE_PAGES STATUS
        STOP STORAGE STORED STRAIGHT_JOIN STRING SUBCLASS_ORIGIN SUBJECT SUBPARTITION SUBPARTITIONS SUPER SUSPEND SWAPS SWITCHES SYSDATE
        SYSTEM SYSTEM_TIME TABLE TABLES TABLESPACE TABLE_CHECKSUM TABLE_NAME TEMPORARY TEMPTABLE TERMINATED TEXT THAN THEN THREADS TIES
        TIME TIMESTAMP TIMESTAMPADD TIMESTAMPDIFF TINYBLOB TINYINT TINYTEXT TO TRAILING TRANSACTION TRANSACTIONAL TRIGGER TRIGGERS TRUE
        TRUNCATE TYPE UNBOUNDED UNCOMMITTED UNDEFINED UNDO UNDOFILE UNDO_BUFFER_SIZE UNICODE UNINSTALL UNION UNIQUE UNKNOWN UNLOCK
        UNSIGNED UNTIL UPDATE UPGRADE USAGE USE USER USER_RESOURCES USE_FRM USING UTC_DATE UTC_TIME UTC_TIMESTAMP VALUE VALUES VARBINARY
        VARCHAR VARCHAR2 VARCHARACTER VARIABLES VARYING VERSIONING VIA VIEW VIRTUAL VISIBLE WAIT WARNINGS WEEK WEIGHT_STRING WHEN WHERE
        WHILE WINDOW WITH WITHIN WITHOUT WORK WRAPPER WRITE X509 XA XML XOR YEAR YEAR_MONTH ZEROFILL';

    /** Written by the server => as most people write it. */
    private const SAME = [
        'DISTINCTROW' => 'DISTINCT', 'SYSTEM_USER' => 'USER', 'SESSION_USER' => 'USER', 'CURRENT_TIMESTAMP' => 'NOW', 'LOCALTIME' => 'NOW',
        'LOCALTIMESTAMP' => 'NOW', 'CURRENT_DATE' => 'CURDATE', 'CURRENT_TIME' => 'CURTIME', 'RLIKE' => 'REGEXP', 'SOME' => 'ANY',
        'SCHEMA' => 'DATABASE', 'SCHEMAS' => 'DATABASES', 'CHARACTER' => 'CHAR', 'FIELDS' => 'COLUMNS', 'INT' => 'INTEGER',
        'INT4' => 'INTEGER',
        'INT1' => 'TINYINT', 'INT2' => 'SMALLINT', 'INT3' => 'MEDIUMINT', 'MIDDLEINT' => 'MEDIUMINT', 'INT8' => 'BIGINT',
        'FLOAT4' => 'FLOAT',
        'FLOAT8' => 'DOUBLE', 'DEC' => 'DECIMAL', 'VARCHARACTER' => 'VARCHAR', 'SQL_TSI_SECOND' => 'SECOND', 'SQL_TSI_MINUTE' => 'MINUTE',
        'SQL_TSI_HOUR' => 'HOUR', 'SQL_TSI_DAY' => 'DAY', 'SQL_TSI_WEEK' => 'WEEK', 'SQL_TSI_MONTH' => 'MONTH',
        'SQL_TSI_QUARTER' => 'QUARTER', 'SQL_TSI_YEAR' => 'YEAR',
    ];

    /** Only where arguments follow. */
    private const SAME_FUNCTIONS = [
        'SUBSTR' => 'SUBSTRING', 'MID' => 'SUBSTRING', 'STD' => 'STDDEV_POP', 'STDDEV' => 'STDDEV_POP', 'VARIANCE' => 'VAR_POP',
    ];

    private const CALLED = ['INTO', 'TABLE', 'FROM', 'JOIN', 'UPDATE', 'REFERENCES', 'INDEX', 'KEY', '.'];

    /** @var array<string, int>|null */
    private static ?array $set = null;

    /** A word that is not quoted, as it is told. */
    public static function word(string $word): string
    {
        $upper = strtoupper($word);
        self::$set ??= array_fill_keys(explode(' ', (string) preg_replace('~\s+~', ' ', self::WORDS)), 1);

        return self::SAME[$upper] ?? (isset(self::$set[$upper]) ? $upper : $word);
    }

    /**
     * What the server writes otherwise than people do, made the same in both: signs, variables, lists of values, names of functions.
     *
     * @param  list<string>  $tokens literals already "?"
     * @return list<string>
     */
    public static function same(array $tokens): array
    {
        $isData = in_array($tokens[0] ?? '', ['SELECT', 'INSERT', 'REPLACE', 'UPDATE', 'DELETE', 'WITH', 'SET', '('], true);
        $out = [];
        for ($i = 0, $n = count($tokens); $i < $n; $i++) {
            $token = $tokens[$i];
            $next = $tokens[$i + 1] ?? '';
            $before = $out === [] ? '' : $out[count($out) - 1];
            if ($token === '!=') {
                $token = '<>';
            } elseif ($token === '@' && $next === '@') {
                $token = '@@'.strtolower(trim($tokens[$i + 2] ?? '', '`'));
                $i += 2;
            } elseif ($token === '@' && $next === '?') {
                $token = '@?';
                $i++;
            } elseif (str_starts_with($token, '@@')) {
                $token = strtolower($token);
            } elseif ($token === 'NULL' && $isData && ! in_array($before, ['IS', 'NOT', 'SET'], true)) {
                $token = '?';
            } elseif ($token === '(' && $next === '_charset' && ($tokens[$i + 2] ?? '') === ')') {
                $i += 2;

                continue;
            } elseif ($token === '...' && $before === '(' && $next === ')') {
                array_push($out, '?', ',');
            } elseif ($next === '(' && ! in_array($before, self::CALLED, true)) {
                $token = self::called($token);
            }
            $out[] = $token;
        }

        return self::rows(self::lists($out));
    }

    private static function called(string $token): string
    {
        $bare = $token !== '' && $token[0] === '`' ? trim($token, '`') : $token;
        $upper = strtoupper($bare);

        return self::SAME_FUNCTIONS[$upper] ?? (Keywords::has($upper) && $bare !== $token ? $upper : $token);
    }

    /**
     * Two values or more become "?, ...".
     *
     * @param  list<string>  $tokens
     * @return list<string>
     */
    private static function lists(array $tokens): array
    {
        $out = [];
        for ($i = 0, $n = count($tokens); $i < $n; $i++) {
            $out[] = $tokens[$i];
            if ($tokens[$i] !== '?') {
                continue;
            }
            $end = $i;
            while (($tokens[$end + 1] ?? '') === ',' && in_array($tokens[$end + 2] ?? '', ['?', '...'], true)) {
                $end += 2;
            }
            if ($end > $i) {
                array_push($out, ',', '...');
                $i = $end;
            }
        }

        return $out;
    }

    /**
     * Equal lists of values in brackets, one after the other, are one.
     *
     * @param  list<string>  $tokens
     * @return list<string>
     */
    private static function rows(array $tokens): array
    {
        $row = ['(', '?', ',', '...', ')'];
        $out = [];
        for ($i = 0, $n = count($tokens); $i < $n; $i++) {
            if ($tokens[$i] === '(' && array_slice($tokens, $i, 5) === $row) {
                array_push($out, ...$row);
                $i += 5;
                while (($tokens[$i] ?? '') === ',' && array_slice($tokens, $i + 1, 5) === $row) {
                    $i += 6;
                }
                $i--;

                continue;
            }
            $out[] = $tokens[$i];
        }

        return $out;
    }
}
