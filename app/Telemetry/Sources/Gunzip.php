<?php

declare(strict_types=1);

namespace App\Telemetry\Sources;

use InflateContext;

/**
 * A stream of the text in a gzip file (RFC 1952), of one member or several, that tells where it is damaged. The wrapper
 * PHP has ends there in silence, as if the file were whole.
 *
 * @internal opened through PlainOrGzip
 */
final class Gunzip
{
    public const SCHEME = 'fulcrion-gunzip';

    /** Bytes of text of one file. */
    public const MOST_BYTES = 68_719_476_736;

    /** Bytes of text for each byte of the file, from the first 64 MiB on; what people compress has a tenth of that. */
    public const MOST_RATIO = 500;

    private const RATIO_FROM = 67_108_864;

    private const HELPING = 16_384;

    /** @var resource|null of PHP's making */
    public $context;

    /** @var resource */
    private $file;

    private ?InflateContext $inflate = null;

    private string $text = '';

    /** How far of the text was given away. */
    private int $at = 0;

    private int $bytesIn = 0;

    private int $bytesOut = 0;

    private int $position = 0;

    private bool $over = false;

    private GunzipState $state;

    public function stream_open(string $path, string $mode): bool
    {
        $file = $mode === 'rb' ? @fopen(substr($path, strlen(self::SCHEME) + 3), 'rb') : false;
        $options = $this->context === null ? [] : stream_context_get_options($this->context);
        $state = $options[self::SCHEME]['state'] ?? null;
        if ($file === false || ! ($state instanceof GunzipState)) {
            return false;
        }
        [$this->file, $this->state] = [$file, $state];

        return true;
    }

    public function stream_read(int $count): string
    {
        while (strlen($this->text) - $this->at < $count && ! $this->over) {
            $this->text = substr($this->text, $this->at);
            $this->at = 0;
            $this->more();
        }
        $part = substr($this->text, $this->at, $count);
        $this->at += strlen($part);
        $this->position += strlen($part);

        return $part;
    }

    public function stream_eof(): bool
    {
        return $this->over && $this->at >= strlen($this->text);
    }

    public function stream_close(): void
    {
        fclose($this->file);
    }

    /** Back to the beginning only. */
    public function stream_seek(int $offset, int $whence): bool
    {
        if ($offset !== 0 || $whence !== SEEK_SET) {
            return false;
        }
        rewind($this->file);
        [$this->inflate, $this->text, $this->at, $this->bytesIn, $this->bytesOut, $this->over, $this->position] = [
            null,
            '',
            0,
            0,
            0,
            false,
            0,
        ];
        $this->state->trouble = null;

        return true;
    }

    public function stream_tell(): int
    {
        return $this->position;
    }

    public function stream_set_option(): bool
    {
        return false;
    }

    /**
     * @return array<string, int>
     */
    public function stream_stat(): array
    {
        return [];
    }

    private function more(): void
    {
        $bytes = (string) fread($this->file, self::HELPING);
        if ($bytes === '') {
            // Between two members is a good place to end.
            $this->end($this->inflate === null ? null : 'is cut off');

            return;
        }
        while ($bytes !== '' && ! $this->over) {
            if ($this->inflate === null) {
                if ($this->bytesIn > 0 && trim($bytes, "\0") === '') {
                    // Tapes and some programs fill up with zeros.
                    $this->bytesIn += strlen($bytes);

                    return;
                }
                $inflate = inflate_init(ZLIB_ENCODING_GZIP);
                $this->inflate = $inflate === false ? null : $inflate;
            }
            $before = $this->inflate === null ? 0 : inflate_get_read_len($this->inflate);
            $text = $this->inflate === null ? false : @inflate_add($this->inflate, $bytes);
            if ($text === false || $this->inflate === null) {
                $this->end('is damaged');

                return;
            }
            $used = inflate_get_read_len($this->inflate) - $before;
            $this->bytesIn += $used;
            $this->bytesOut += strlen($text);
            $this->text .= $text;
            if (
                $this->bytesOut > self::MOST_BYTES ||
                ($this->bytesOut > self::RATIO_FROM && $this->bytesOut > self::MOST_RATIO * $this->bytesIn)
            ) {
                $this->end(
                    'unpacks to more than '.
                        ($this->bytesOut > self::MOST_BYTES ? '64 GiB' : self::MOST_RATIO.' times its size').
                        ', which is the limit,',
                );

                return;
            }
            $ended = inflate_get_status($this->inflate) === ZLIB_STREAM_END;
            $bytes = $ended ? substr($bytes, $used) : '';
            if ($ended) {
                $this->inflate = null;
            }
        }
    }

    private function end(?string $trouble): void
    {
        $this->over = true;
        $this->state->trouble = $trouble === null ? null : "The gzip file {$trouble} at byte {$this->bytesIn}";
    }
}
