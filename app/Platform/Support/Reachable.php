<?php

declare(strict_types=1);

namespace App\Platform\Support;

use Closure;
use Fulcrion\Core\Text\Parts;
use RuntimeException;

/**
 * Which addresses the application may be told to call. This machine itself, its neighbours without a router and the
 * addresses where machines learn their own secrets are not among them, unless the owner of the installation lists them.
 */
final readonly class Reachable
{
    /** Loopback, this network, link-local and its metadata services, benchmarks, multicast and reserved (RFC 6890). */
    private const CLOSED = [
        '0.0.0.0/8',
        '127.0.0.0/8',
        '169.254.0.0/16',
        '192.0.0.0/24',
        '198.18.0.0/15',
        '224.0.0.0/3',
        '100.100.100.200/32',
        '168.63.129.16/32',
        '::/128',
        '::1/128',
        'fe80::/10',
        'ff00::/8',
        'fd00:ec2::254/128',
    ];

    /**
     * @param  list<string>  $open addresses or ranges the owner lists
     * @param  (Closure(string): list<string>)|null  $resolve names to addresses; null to ask the system
     */
    public function __construct(private array $open, private ?Closure $resolve = null)
    {
    }

    public static function configured(): self
    {
        return new self(Parts::between((string) config('fulcrion.reachable')));
    }

    /**
     * The address to call for a host, checked. Who calls it has to call this address and not the name, which may mean
     * another one a moment later.
     *
     * @throws RuntimeException saying why not
     */
    public function address(string $host): string
    {
        $host = trim($host, '[]');
        $addresses = filter_var($host, FILTER_VALIDATE_IP) !== false ? [$host] : $this->resolved($host);
        if ($addresses === []) {
            throw new RuntimeException("The name {$host} is not known to this machine's name service.");
        }
        $refusal = $this->closed($host, $addresses);

        return $refusal === null ? $addresses[0] : throw new RuntimeException($refusal);
    }

    /** Why a host may not be called; null where it may, or where its name is not known yet. */
    public function refusal(string $host): ?string
    {
        $host = trim($host, '[]');

        return $this->closed($host, filter_var($host, FILTER_VALIDATE_IP) !== false ? [$host] : $this->resolved($host));
    }

    /**
     * @param  list<string>  $addresses
     */
    private function closed(string $host, array $addresses): ?string
    {
        foreach ($addresses as $address) {
            $plain = self::plain($address);
            if ($this->within($plain, self::CLOSED) && ! $this->within($plain, $this->open)) {
                return "{$host} leads to {$address}, which is this machine or one of its own services. An owner of the installation can "
                    .'list it in FULCRION_REACHABLE.';
            }
        }

        return null;
    }

    /**
     * @return list<string>
     */
    private function resolved(string $host): array
    {
        if ($this->resolve !== null) {
            return ($this->resolve)($host);
        }
        if (preg_match('~^[A-Za-z0-9._-]+$~', $host) !== 1) {
            return [];
        }
        $old = gethostbynamel($host);
        $found = $old === false ? [] : $old;
        $new = $found === [] || str_contains($host, '.') ? @dns_get_record($host, DNS_AAAA) : [];
        foreach ($new === false ? [] : $new as $record) {
            $found[] = (string) ($record['ipv6'] ?? '');
        }

        return Parts::said($found);
    }

    /** IPv4 addresses in their IPv6 dress as what they are. */
    private static function plain(string $address): string
    {
        $bytes = (string) @inet_pton($address);
        foreach (["\0\0\0\0\0\0\0\0\0\0\xff\xff", "\0\x64\xff\x9b\0\0\0\0\0\0\0\0"] as $mapped) {
            if (strlen($bytes) === 16 && str_starts_with($bytes, $mapped)) {
                return substr($bytes, 12);
            }
        }

        return $bytes;
    }

    /**
     * @param  list<string>  $ranges
     */
    private function within(string $bytes, array $ranges): bool
    {
        foreach ($ranges as $range) {
            [$from, $length] = [...explode('/', $range, 2), ''];
            $start = (string) @inet_pton($from);
            $bits = $length === '' ? strlen($start) * 8 : (int) $length;
            if ($start === '' || strlen($start) !== strlen($bytes)) {
                continue;
            }
            $whole = intdiv($bits, 8);
            $mask = $bits % 8 === 0 ? '' : chr((0xFF << (8 - ($bits % 8))) & 0xFF);
            if (
                substr($start, 0, $whole) === substr($bytes, 0, $whole) &&
                ($mask === '' || ($start[$whole] & $mask) === ($bytes[$whole] & $mask))
            ) {
                return true;
            }
        }

        return false;
    }
}
