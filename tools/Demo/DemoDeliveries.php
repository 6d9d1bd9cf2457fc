<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Demo;

use App\Estate\Models\Cluster;
use App\Loading\Application\DeliveryBook;
use App\Loading\Application\LoadingFindings;
use Fulcrion\Core\Loading\TransferredFile;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Deliveries of the demo world: each night 900 files of 2 to 8 MB over one stream that uses a tenth of its link, and prices that come as
 * they should.
 */
final readonly class DemoDeliveries
{
    public const NIGHTLY = 'nightly';

    public const HEALTHY = 'prices';

    private const FILES = 900;

    private const NIGHTS = 28;

    private const LINK = 12_500_000.0;

    /** What a file takes beside its bytes, and how fast one stream is. */
    private const FILE_SECONDS = 2.6;

    private const STREAM = 3_500_000.0;

    private const DAY = 86_400;

    public function __construct(private DeliveryBook $book, private LoadingFindings $findings)
    {
    }

    public function write(int $now): void
    {
        $cluster = Cluster::query()->where('slug', 'fernhill')->first();
        if ($cluster === null || $this->book->names($cluster) !== []) {
            return;
        }
        $random = new Randomizer(new Mt19937(20));
        for ($night = self::NIGHTS; $night >= 1; $night--) {
            $start = $now - $now % self::DAY - ($night - 1) * self::DAY + 1_800;
            if ($start + 2 * 3_600 > $now) {
                continue;
            }
            $this->book->keep($cluster, self::NIGHTLY,
                self::files($random, $start, self::FILES, 2_000_000, 8_000_000, self::FILE_SECONDS, 1));
            $this->book->keep($cluster, self::HEALTHY, self::files($random, $start + 5_400, 48, 80_000_000, 90_000_000, 0.4, 4));
        }
        foreach ([self::NIGHTLY, self::HEALTHY] as $name) {
            $this->book->setLink($cluster, $name, self::LINK, 'Idris Pell', ($now - self::NIGHTS * self::DAY) * 1_000_000);
        }
        $this->findings->report($cluster, $now);
    }

    /**
     * @return list<TransferredFile>
     */
    private static function files(Randomizer $random, int $start, int $count, int $least, int $most, float $each, int $streams): array
    {
        $free = array_fill(0, $streams, $start * 1_000_000);
        $files = [];
        for ($i = 0; $i < $count; $i++) {
            asort($free);
            $stream = (int) array_key_first($free);
            $bytes = $random->getInt($least, $most);
            $began = $free[$stream];
            $rate = min(self::STREAM, self::LINK / $streams);
            $free[$stream] += (int) (1e6 * ($each + $bytes / $rate) * (0.9 + 0.2 * $random->getInt(0, 1_000) / 1_000));
            $files[] = new TransferredFile($bytes, $began, $free[$stream]);
        }

        return $files;
    }
}
