<?php

declare(strict_types=1);

namespace App\Platform\Parts;

use App\Platform\Support\Clock;
use Fulcrion\Core\Text\Quantity;
use Illuminate\Contracts\Cache\Repository;
use Illuminate\Support\Facades\DB;

/**
 * What everything stands on: the database, the queue, the scheduler, the disk and the certificate.
 */
final readonly class OwnParts
{
    public const BEAT = 'scheduler-beat';

    private const DAY = 86_400;

    public function __construct(private Repository $cache)
    {
    }

    public function register(PartBook $parts): void
    {
        $parts->register('database', self::database(...));
        $parts->register('queue', self::queue(...));
        $parts->register('scheduler', $this->scheduler(...));
        $parts->register('disk', self::disk(...));
        if (self::certificateFile() !== '') {
            $parts->register('certificate', self::certificate(...));
        }
    }

    private static function database(): OwnPart
    {
        $began = hrtime(true);
        DB::select('SELECT 1');
        $seconds = (hrtime(true) - $began) / 1e9;

        return OwnPart::small($seconds, 0.5, 5.0, 'It answers within '.Quantity::duration($seconds * 1e6).'.',
            ['answer_seconds' => $seconds]);
    }

    private static function queue(): OwnPart
    {
        $now = Clock::seconds();
        $row = DB::table('jobs')->whereNull('reserved_at')->where('available_at', '<=', $now)
            ->selectRaw('COUNT(*) AS waiting, MIN(available_at) AS oldest')->first();
        $waiting = (int) ($row->waiting ?? 0);
        $seconds = $waiting === 0 ? 0.0 : (float) ($now - (int) ($row->oldest ?? $now));

        return OwnPart::small($seconds, 60.0, 600.0, $waiting === 0 ? 'Nothing waits.'
            : "{$waiting} wait, the oldest for ".Quantity::duration($seconds * 1e6).'.',
            ['waiting' => (float) $waiting, 'oldest_seconds' => $seconds]);
    }

    private function scheduler(): OwnPart
    {
        $beat = $this->cache->get(self::BEAT);
        if (! is_int($beat)) {
            return new OwnPart('act', 'It has not run yet: nothing is read, judged or sent unless somebody asks for it.');
        }
        $seconds = (float) max(0, Clock::seconds() - $beat);

        return OwnPart::small($seconds, 120.0, 300.0, 'It ran '.Quantity::duration($seconds * 1e6).' ago.',
            ['last_run_seconds' => $seconds]);
    }

    private static function disk(): OwnPart
    {
        [$free, $all] = [(float) disk_free_space(storage_path()), (float) disk_total_space(storage_path())];
        $used = $all > 0.0 ? 1 - $free / $all : 0.0;

        return OwnPart::small($used, 0.9, 0.97, Quantity::percent($used).' is used, '.Quantity::bytes($free).' are free.',
            ['used_ratio' => $used, 'free_bytes' => $free]);
    }

    private static function certificate(): OwnPart
    {
        $text = @file_get_contents(self::certificateFile());
        $certificate = is_string($text) ? openssl_x509_parse($text) : false;
        if ($certificate === false) {
            return new OwnPart('no data', 'The file cannot be read.');
        }
        $days = ((int) $certificate['validTo_time_t'] - Clock::seconds()) / self::DAY;

        return OwnPart::small(-$days, -21.0, -7.0, $days < 0 ? 'It has ended.' : 'It ends in '.(int) $days.' days.',
            ['days_left' => $days]);
    }

    private static function certificateFile(): string
    {
        return (string) config('fulcrion.certificate');
    }
}
