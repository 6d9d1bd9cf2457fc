<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use Fulcrion\Core\Parquet\ParquetError;
use Fulcrion\Core\Parquet\ParquetReader;
use Fulcrion\Core\Storage\FolderLayout;
use Fulcrion\Core\Storage\TableLayout;
use RecursiveDirectoryIterator;
use RecursiveIteratorIterator;
use SplFileInfo;
use UnexpectedValueException;

/**
 * Reads the footers of all Parquet files below a folder.
 */
final readonly class FolderReader
{
    private const MOST = 50_000;

    /**
     * @return array{TableLayout, list<array{string, string}>} the table, files that are none of it with the reason
     *
     * @throws SourceError
     */
    public function read(string $folder, string $name): array
    {
        $real = realpath($folder);
        if ($real === false || ! is_dir($real)) {
            throw new SourceError("There is no folder {$folder} on this server.");
        }
        $layout = new FolderLayout();
        $refused = [];
        try {
            $paths = [];
            foreach (new RecursiveIteratorIterator(new RecursiveDirectoryIterator($real, RecursiveDirectoryIterator::SKIP_DOTS)) as $file) {
                assert($file instanceof SplFileInfo);
                // One look at each file: links are not followed.
                if ($file->getType() === 'file') {
                    $paths[] = $file->getPathname();
                }
                if (count($paths) > self::MOST) {
                    throw new SourceError('There are more than '.self::MOST.' files below this folder; point at a part of it.');
                }
            }
        } catch (UnexpectedValueException) {
            throw new SourceError("The folder {$folder} cannot be read.");
        }
        sort($paths);
        foreach ($paths as $path) {
            $short = substr($path, strlen($real) + 1);
            // Marks and logs of writers begin so by convention and hold no rows.
            if (preg_match('~(^|/)[._][^/=]*$~', $short) === 1) {
                continue;
            }
            try {
                $file = new FooterFile($path);
                $reason = $layout->add($short, $file->size(), ParquetReader::open($file));
            } catch (ParquetError|SourceError $error) {
                $reason = $error->getMessage();
            }
            if ($reason !== null) {
                $refused[] = [$short, $reason];
            }
        }

        return [$layout->layout($name), $refused];
    }
}
