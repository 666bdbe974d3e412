/* Each is there as it is and, as NAME.gz, packed. */
#include "files.h"

#include <dirent.h>
#include <errno.h>
#include <limits.h>
#include <sodium.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>

#include "reply.h"

#define FILES_MOST 64
#define FILE_BYTES_MOST (4 << 20)

struct file {
    char name[64];
    char etag[36];
    char *bytes;
    size_t length;
};

struct files {
    struct file list[FILES_MOST];
    size_t count;
};

static const char *type_of(const char *name)
{
    static const char *const types[][2] = {
        {".html", "text/html; charset=utf-8"},
        {".js", "text/javascript; charset=utf-8"},
        {".css", "text/css; charset=utf-8"},
        {".svg", "image/svg+xml"},
        {".webmanifest", "application/manifest+json"},
        {".json", "application/json"},
        {".txt", "text/plain; charset=utf-8"}};
    const char *dot = strrchr(name, '.');
    for (size_t i = 0; dot && i < sizeof(types) / sizeof(types[0]); i++)
        if (strcmp(dot, types[i][0]) == 0)
            return types[i][1];
    return "application/octet-stream";
}

static void make_etag(struct file *file)
{
    unsigned char hash[16];
    crypto_generichash(hash, sizeof(hash), (const unsigned char *)file->bytes,
                       file->length, NULL, 0);
    file->etag[0] = '"';
    sodium_bin2hex(file->etag + 1, sizeof(file->etag) - 1, hash, sizeof(hash));
    file->etag[33] = '"';
    file->etag[34] = '\0';
}

static bool read_bytes(struct file *file, FILE *in)
{
    struct stat about;
    if (fstat(fileno(in), &about) != 0 || about.st_size > FILE_BYTES_MOST)
        return false;
    file->length = (size_t)about.st_size;
    file->bytes = malloc(file->length + 1);
    if (!file->bytes)
        abort();
    return fread(file->bytes, 1, file->length, in) == file->length;
}

static bool read_file(struct file *file, const char *path)
{
    FILE *in = fopen(path, "re");
    if (!in)
        return false;
    bool good = read_bytes(file, in);
    fclose(in);
    if (good)
        make_etag(file);
    return good;
}

static const struct file *find(const struct files *files, const char *name)
{
    for (size_t i = 0; i < files->count; i++)
        if (strcmp(files->list[i].name, name) == 0)
            return &files->list[i];
    return NULL;
}

static bool read_folder(struct files *files, const char *folder, DIR *dir)
{
    struct dirent *entry;
    char path[PATH_MAX];
    while ((entry = readdir(dir)) && files->count < FILES_MOST) {
        struct file *file = &files->list[files->count];
        if (entry->d_name[0] == '.' ||
            strlen(entry->d_name) >= sizeof(file->name))
            continue;
        snprintf(file->name, sizeof(file->name), "%.63s", entry->d_name);
        snprintf(path, sizeof(path), "%s/%s", folder, entry->d_name);
        files->count++;
        if (!read_file(file, path))
            return false;
    }
    return find(files, "index.html") != NULL;
}

struct files *files_open(const char *folder, char *wrong, size_t size)
{
    struct files *files = calloc(1, sizeof(*files));
    DIR *dir = opendir(folder);
    if (!files)
        abort();
    errno = dir ? 0 : errno;
    bool good = dir && read_folder(files, folder, dir);
    if (!good)
        snprintf(wrong, size, "%s: %s", folder,
                 errno ? strerror(errno)
                       : "no built page is there; it is built where there is "
                         "node");
    if (dir)
        closedir(dir);
    if (good)
        return files;
    files_close(files);
    return NULL;
}

void files_close(struct files *files)
{
    for (size_t i = 0; i < files->count; i++)
        free(files->list[i].bytes);
    free(files);
}

bool files_reply(const struct files *files, struct evhttp_request *request,
                 const char *path)
{
    char packed[70];
    if (*path != '/')
        return false; /* "GET ?x": there is nothing behind it */
    const char *name = path[1] == '\0' ? "index.html" : path + 1;
    const struct file *file = find(files, name);
    const struct file *small = NULL;
    if (!file)
        return false;
    snprintf(packed, sizeof(packed), "%s.gz", name);
    if (strstr(request_header(request, "Accept-Encoding"), "gzip"))
        small = find(files, packed);
    struct evkeyvalq *headers = evhttp_request_get_output_headers(request);
    evhttp_add_header(headers, "Vary", "Accept-Encoding");
    if (small)
        evhttp_add_header(headers, "Content-Encoding", "gzip");
    reply_bytes(request, type_of(name), small ? small->bytes : file->bytes,
                small ? small->length : file->length,
                small ? small->etag : file->etag);
    return true;
}
