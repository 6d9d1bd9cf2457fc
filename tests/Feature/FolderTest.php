<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Platform\Support\Role;
use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Parquet\ParquetWriter;
use Illuminate\Http\UploadedFile;
use Tests\TestCase;
use ZipArchive;

/**
 * Folders of Parquet files are mapped from their footers.
 */
final class FolderTest extends TestCase
{
    private string $root;

    protected function setUp(): void
    {
        parent::setUp();
        $this->root = sys_get_temp_dir().'/fulcrion-lake-'.bin2hex(random_bytes(4));
        mkdir("{$this->root}/readings", 0700, true);
        config(['fulcrion.lake' => $this->root]);
        exec('rm -rf '.escapeshellarg(storage_path('app/folders')));
        $this->actingAs($this->person(Role::Engineer));
    }

    protected function tearDown(): void
    {
        exec('rm -rf '.escapeshellarg($this->root).' '.escapeshellarg(storage_path('app/folders')));
        parent::tearDown();
    }

    public function test_a_folder_written_by_another_library_is_mapped_and_what_is_no_parquet_is_listed(): void
    {
        exec(
            'cd '.
                escapeshellarg(base_path()).
                ' && node tests/Core/Parquet/write.mjs '.
                escapeshellarg("{$this->root}/readings/part-0.parquet"),
            $output,
            $code,
        );
        self::assertSame(0, $code);
        copy("{$this->root}/readings/part-0.parquet", "{$this->root}/readings/part-1.parquet");
        $bytes = (string) file_get_contents("{$this->root}/readings/part-0.parquet");
        file_put_contents("{$this->root}/readings/cut.parquet", substr($bytes, 0, -100));
        file_put_contents("{$this->root}/readings/notes.txt", 'not a table');
        file_put_contents("{$this->root}/readings/_SUCCESS", '');
        $this->post('/tune/layout-files', ['path' => "{$this->root}/readings"])->assertRedirect('/tune/layout/files/readings');
        $this->get('/tune/layout/files/readings?column=id')
            ->assertOk()
            ->assertSee('rows in 2 files')
            ->assertSee('cut.parquet')
            ->assertSee('cut short')
            ->assertSee('notes.txt')
            ->assertSee('does not begin with the mark')
            ->assertDontSee('_SUCCESS')
            ->assertSee('At most 2 files lie over a point');
        $this->get('/tune/layout/files')->assertOk()->assertSee('readings');
    }

    public function test_folders_named_key_value_are_partitions_and_statements_bring_advice(): void
    {
        foreach (range(1, 12) as $month) {
            foreach (range(0, 3) as $part) {
                $this->parquet(
                    sprintf('%s/readings/year=2026/month=%d/p%d.parquet', $this->root, $month, $part),
                    range($month * 1000, $month * 1000 + 50),
                );
            }
        }
        $this->post('/tune/layout-files', ['path' => "{$this->root}/readings"])->assertRedirect();
        $page = $this->get(
            '/tune/layout/files/readings?'.
                http_build_query([
                    'column' => 'month',
                    'sql' => 'SELECT sum(n) FROM files WHERE month = 3 AND n < 3020; SELECT count(*) FROM elsewhere; nonsense',
                ]),
        )->assertOk();
        $page
            ->assertSee('month')
            ->assertSee('Partitions')
            ->assertSee('2 of them could not be read')
            ->assertSee('Compact files.readings from 48 to 12 chunks')
            ->assertSee('8.3%');
    }

    public function test_a_zip_file_is_unpacked_within_its_folder_only(): void
    {
        $this->parquet("{$this->root}/one.parquet", range(1, 10));
        $zip = new ZipArchive();
        $zip->open("{$this->root}/sent.zip", ZipArchive::CREATE);
        $zip->addFile("{$this->root}/one.parquet", 'day=2026-11-20/one.parquet');
        $zip->addFromString('../../escaped.txt', 'no');
        $zip->addFromString('/absolute.txt', 'no');
        $zip->close();
        $this->post('/tune/layout-files', [
            'zip' => new UploadedFile("{$this->root}/sent.zip", 'Sent Today.zip', 'application/zip', null, true),
        ])->assertRedirect('/tune/layout/files/sent-today');
        $this->get('/tune/layout/files/sent-today?column=day')
            ->assertOk()
            ->assertSee('10 rows')
            ->assertSee('2026-11-20')
            ->assertDontSee('escaped.txt');
        self::assertFileDoesNotExist(storage_path('escaped.txt'));
        file_put_contents("{$this->root}/bad.zip", 'PK nothing');
        $this->post('/tune/layout-files', [
            'zip' => new UploadedFile("{$this->root}/bad.zip", 'bad.zip', 'application/zip', null, true),
        ])->assertSessionHasErrors('path');
        $this->post('/tune/layout-files', ['path' => '/etc'])->assertSessionHasErrors('path');
        $this->post('/tune/layout-files', ['path' => "{$this->root}/../"])->assertSessionHasErrors('path');
        $this->post('/tune/layout-files', [])->assertSessionHasErrors('path');
        $this->post('/tune/layout-files/sent-today/forget')->assertRedirect();
        $this->get('/tune/layout/files/sent-today')->assertNotFound();
    }

    /**
     * @param  list<int>  $numbers
     */
    private function parquet(string $path, array $numbers): void
    {
        is_dir(dirname($path)) || mkdir(dirname($path), 0700, true);
        file_put_contents($path, (new ParquetWriter())->write([new Column('n', ColumnType::of(TypeKind::Bigint), false)], [$numbers]));
    }
}
