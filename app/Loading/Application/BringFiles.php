<?php

declare(strict_types=1);

namespace App\Loading\Application;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\SourceError;
use App\Loading\Models\LoadTrial;
use App\Platform\Runs\Progress;
use Fulcrion\Core\Loading\TransferMeasure;
use Fulcrion\Core\Loading\TransferredFile;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;
use Illuminate\Support\Facades\File;
use Symfony\Component\Process\PhpExecutableFinder;
use Symfony\Component\Process\Process;

/**
 * Brings the same files with one stream, two, four and eight, each stream a process of its own, and takes them away again.
 */
final class BringFiles implements ShouldQueue
{
    use Queueable;

    private const STREAMS = [1, 2, 4, 8];

    /** Longer than all of it may take. */
    public int $timeout = 300;

    public int $tries = 1;

    public const MOST_BYTES = 512_000_000;

    private const SECONDS = 60;

    public function __construct(private readonly int $trialId)
    {
    }

    public function handle(Clusters $clusters): void
    {
        $trial = LoadTrial::query()->find($this->trialId);
        if ($trial === null || $trial->state !== 'waiting') {
            return;
        }
        $trial->carryOut(function (Progress $progress) use ($trial, $clusters): array {
            $folder = storage_path('app/trials/'.$trial->id);
            File::ensureDirectoryExists($folder, 0o700);
            try {
                $files = $this->files($trial, $folder, $progress);
                $result = [];
                foreach (self::STREAMS as $place => $streams) {
                    $progress->checkpoint("bringing them with {$streams} ".($streams === 1 ? 'stream' : 'streams'), 0.2 + 0.2 * $place);
                    if ($streams <= count($files)) {
                        $result[] = $this->bring($trial, $clusters, $files, $streams, $folder, $progress);
                    }
                }

                return ['result' => $result];
            } finally {
                File::deleteDirectory($folder);
            }
        });
    }

    /**
     * @return list<string> paths: those of the folder that was chosen, or made up
     *
     * @throws SourceError
     */
    private function files(LoadTrial $trial, string $folder, Progress $progress): array
    {
        $plan = $trial->plan;
        if ($plan['from'] !== '') {
            $files = $bytes = [];
            foreach (File::files($plan['from']) as $file) {
                if (array_sum($bytes) + $file->getSize() <= self::MOST_BYTES && count($files) < $plan['files']) {
                    $files[] = $file->getPathname();
                    $bytes[] = $file->getSize();
                }
            }

            return $files === [] ? throw new SourceError('There is no file in this folder that could be brought.') : $files;
        }

        return $this->madeUp($plan, $folder, $progress);
    }

    /**
     * @param  array{files: int, least: int, most: int, from: string, to: string}  $plan
     * @return list<string>
     *
     * @throws SourceError
     */
    private function madeUp(array $plan, string $folder, Progress $progress): array
    {
        $noise = random_bytes(1_000_000);
        $files = [];
        for ($i = 0; $i < $plan['files']; $i++) {
            $progress->checkpoint('making '.$plan['files'].' files up', 0.2 * $i / $plan['files']);
            $size = (int) ($plan['least'] + ($plan['most'] - $plan['least']) * ($plan['files'] > 1 ? $i / ($plan['files'] - 1) : 0));
            $files[] = $path = "{$folder}/made-{$i}.bin";
            $handle = fopen($path, 'wb');
            for ($left = $size; $handle !== false && $left > 0; $left -= 1_000_000) {
                if (fwrite($handle, substr($noise, 0, min($left, 1_000_000))) !== min($left, 1_000_000)) {
                    throw new SourceError('The files to be brought could not be written here; the disk may be full.');
                }
            }
            if ($handle !== false) {
                fclose($handle);
            }
        }
        // Not in the order of their sizes: each stream gets small and large ones.
        shuffle($files);

        return $files;
    }

    /**
     * @param  list<string>  $files
     * @return array{streams: int, files: int, bytes: int, seconds: float, fileSeconds: float, streamRate: float|null}
     *
     * @throws SourceError
     */
    private function bring(LoadTrial $trial, Clusters $clusters, array $files, int $streams, string $folder, Progress $progress): array
    {
        $parts = array_fill(0, $streams, []);
        foreach ($files as $place => $file) {
            $parts[$place % $streams][] = $file;
        }
        $go = "{$folder}/go-{$streams}";
        $processes = [];
        foreach ($parts as $stream => $part) {
            $list = "{$folder}/list-{$streams}-{$stream}";
            file_put_contents($list, implode("\n", $part));
            $where = $trial->plan['to'] === '' ? '--cluster='.$trial->cluster->slug : '--to='.$trial->plan['to'];
            $processes[] = $process = new Process(
                [(string) (new PhpExecutableFinder())->find(), base_path('artisan'), 'loading:bring', $list, $go, $where,
                    "--prefix=trial-{$trial->id}-{$streams}"],
                base_path(),
                // They are to reach the cluster this one reaches.
                ['FULCRION_PRACTICE' => (string) config('fulcrion.practice')],
                null,
                self::SECONDS,
            );
            $process->start();
        }
        // All have started up before the first file is brought.
        for ($i = 0; $i < 200 && count(File::glob("{$go}-*")) < $streams; $i++) {
            usleep(50_000);
        }
        touch($go);
        $stop = $progress->stop();
        $said = '';
        foreach ($processes as $process) {
            while ($process->isRunning()) {
                usleep(20_000);
                if ($stop()) {
                    array_map(static fn (Process $one) => $one->stop(1), $processes);
                    $this->takeAway($trial, $clusters, $files, $streams);
                    $progress->checkpoint('stopping', 1.0);
                }
            }
            $said .= $process->getOutput();
        }
        $this->takeAway($trial, $clusters, $files, $streams);
        $moved = [];
        foreach (explode("\n", trim($said)) as $line) {
            $row = array_map(intval(...), explode(' ', $line));
            if (count($row) === 3) {
                $moved[] = new TransferredFile($row[0], $row[1], $row[2]);
            }
        }
        $measure = TransferMeasure::of($moved);
        if ($measure === null || $measure->files < count($files)) {
            throw new SourceError('Not all files could be brought: '.mb_strcut(trim(implode(' ', array_map(
                static fn (Process $one): string => trim($one->getErrorOutput()),
                $processes,
            ))), 0, 200));
        }

        return ['streams' => $streams, 'files' => $measure->files, 'bytes' => $measure->bytes, 'seconds' => $measure->seconds,
            'fileSeconds' => $measure->fileSeconds, 'streamRate' => $measure->streamBytesPerSecond];
    }

    /**
     * @param  list<string>  $files
     *
     * @throws SourceError
     */
    private function takeAway(LoadTrial $trial, Clusters $clusters, array $files, int $streams): void
    {
        foreach ($files as $file) {
            $name = "trial-{$trial->id}-{$streams}-".basename($file);
            if ($trial->plan['to'] === '') {
                $clusters->as(Actor::system(SystemActor::Rehearsal, 'files of a trial'))->discard($trial->cluster, $name);
            } else {
                @unlink("{$trial->plan['to']}/{$name}");
            }
        }
    }
}
