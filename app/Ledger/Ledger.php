<?php

declare(strict_types=1);

namespace App\Ledger;

use App\Ledger\Models\LedgerEntry;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use App\Platform\Support\Journal;
use Illuminate\Database\UniqueConstraintViolationException;
use Illuminate\Support\Facades\DB;
use RuntimeException;

/**
 * The append-only record of acts. Numbers follow each other without a gap and each entry's digest covers the digest of
 * the one before, so a changed, removed or inserted entry shows.
 */
final class Ledger implements Journal
{
    private const GENESIS = '0000000000000000000000000000000000000000000000000000000000000000';

    public function record(?User $user, string $act, string $object, array $details = []): void
    {
        // The number is the key: whoever of two writers comes second, on any server, tries the next one.
        for ($try = 0; $try < 20; $try++) {
            $last = LedgerEntry::query()->orderByDesc('number')->first();
            $entry = [
                'number' => ($last->number ?? 0) + 1,
                'at_us' => Clock::microseconds(),
                'user_id' => $user?->id,
                'who' => $user !== null ? "{$user->name} <{$user->email}>" : 'system',
                'act' => $act,
                'object' => mb_strcut($object, 0, 300),
                'details' => (string) json_encode(
                    (object) $details,
                    JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES | JSON_INVALID_UTF8_SUBSTITUTE,
                ),
                'previous' => $last->digest ?? self::GENESIS,
            ];
            $entry['digest'] = self::digest($entry);
            try {
                DB::table('ledger_entries')->insert($entry);

                return;
            } catch (UniqueConstraintViolationException) {
                usleep(1_000 * ($try + 1));
            }
        }
        throw new RuntimeException('The ledger could not be written: too many writers at once.');
    }

    /**
     * @return array{entries: int, brokenAt: int|null} number of the first entry that does not fit
     */
    public function verify(): array
    {
        $previous = self::GENESIS;
        $count = 0;
        foreach (LedgerEntry::query()->orderBy('number')->lazy(1000) as $entry) {
            assert($entry instanceof LedgerEntry);
            $count++;
            if ($entry->number !== $count || $entry->previous !== $previous || self::digest($entry->getAttributes()) !== $entry->digest) {
                return ['entries' => $count, 'brokenAt' => $entry->number];
            }
            $previous = $entry->digest;
        }

        return ['entries' => $count, 'brokenAt' => null];
    }

    /**
     * @param  array<string, mixed>  $entry
     */
    private static function digest(array $entry): string
    {
        $parts = [];
        foreach (['number', 'at_us', 'user_id', 'who', 'act', 'object', 'details', 'previous'] as $field) {
            $parts[] = $entry[$field] === null ? null : (string) $entry[$field];
        }

        return hash('sha256', (string) json_encode($parts, JSON_UNESCAPED_UNICODE | JSON_INVALID_UTF8_SUBSTITUTE));
    }
}
