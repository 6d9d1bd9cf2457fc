<?php

declare(strict_types=1);

namespace App\Loading\Console;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use Illuminate\Console\Command;

/**
 * One stream of a trial: brings its files one after the other and says of each its bytes and when it came.
 */
final class BringCommand extends Command
{
    private const PIECE = 1_048_576;

    protected $signature = 'loading:bring {list : file with a path in each line} {go : file that says when to begin}
        {--cluster= : into whose inbox} {--to= : or the folder} {--prefix= : of the names they get}';

    protected $description = 'Brings files for a trial of loading in';

    protected $hidden = true;

    public function handle(Clusters $clusters): int
    {
        $go = (string) $this->argument('go');
        $cluster = Cluster::query()->where('slug', (string) $this->option('cluster'))->first();
        $actor = $clusters->as(Actor::system(SystemActor::Rehearsal, 'files of a trial'));
        touch($go.'-'.getmypid());
        for ($i = 0; $i < 3_000 && ! file_exists($go); $i++) {
            usleep(5_000);
            clearstatcache(true, $go);
        }
        foreach (explode("\n", (string) file_get_contents((string) $this->argument('list'))) as $path) {
            $name = $this->option('prefix').'-'.basename($path);
            $start = intdiv((int) hrtime(true), 1_000);
            try {
                if ($cluster !== null) {
                    $actor->receive($cluster, $name, $path);
                } elseif (! self::copy($path, $this->option('to')."/{$name}")) {
                    throw new SourceError('A file could not be written into the folder; the disk may be full.');
                }
            } catch (SourceError $error) {
                fwrite(STDERR, $error->getMessage());

                return self::FAILURE;
            }
            $this->line(filesize($path).' '.$start.' '.intdiv((int) hrtime(true), 1_000));
        }

        return self::SUCCESS;
    }

    /** To the disk, and not only to the memory before it. */
    private static function copy(string $from, string $to): bool
    {
        $in = @fopen($from, 'rb');
        $out = @fopen($to, 'xb');
        if ($in === false || $out === false) {
            return false;
        }
        while (! feof($in)) {
            $piece = fread($in, self::PIECE);
            if ($piece === false || fwrite($out, $piece) !== strlen($piece)) {
                return false;
            }
        }

        return fsync($out) && fclose($out);
    }
}
