<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use App\Platform\Support\Reachable;
use Closure;
use PDO;
use RuntimeException;

/**
 * How a server somebody named is called: only where the owner of the installation allows, without waiting for long, and over TLS with its
 * certificate looked at.
 */
final readonly class ServerReach
{
    public const TIMEOUT_SECONDS = 5;

    private const AUTHORITIES = '/etc/ssl/certs/ca-certificates.crt';

    /**
     * The host to call: the address that was looked at, or with TLS the name, which has to be that of the certificate.
     *
     * @throws RuntimeException where it leads to this machine or its own services
     */
    public static function host(string $host, bool $tls): string
    {
        $address = Reachable::configured()->address($host);

        return $tls ? $host : $address;
    }

    /**
     * @return array<int, mixed> options of the connection
     */
    public static function options(bool $tls): array
    {
        return [PDO::ATTR_TIMEOUT => self::TIMEOUT_SECONDS, PDO::MYSQL_ATTR_MULTI_STATEMENTS => false] + ($tls ? [
            PDO::MYSQL_ATTR_SSL_CA => self::AUTHORITIES, PDO::MYSQL_ATTR_SSL_VERIFY_SERVER_CERT => true,
        ] : []);
    }

    /**
     * Connects so that a server that takes the call and then is silent does not hold whoever reads it.
     *
     * @template T
     *
     * @param  int  $seconds an answer may take, after the connection
     * @param  Closure(): T  $connect
     * @return T
     */
    public static function within(int $seconds, Closure $connect): mixed
    {
        $silence = ini_set('mysqlnd.net_read_timeout', (string) ($seconds + self::TIMEOUT_SECONDS));
        try {
            return $connect();
        } finally {
            ini_set('mysqlnd.net_read_timeout', (string) $silence);
        }
    }
}
