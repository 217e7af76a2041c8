// Pictures to lay under a plan: PNG (libpng) and JPEG (libjpeg) to plain pixels, thinned where they have more than a
// screen can use.
#include <csetjmp>
#include <cstdio>
#include <memory>

#include <fmt/format.h>
#include <jpeglib.h>
#include <png.h>

#include "read/drawing.hpp"

namespace wren {
namespace {

constexpr std::size_t most_pixels = 100'000'000;  // of the file
constexpr std::size_t kept_pixels = 12'000'000;   // of what comes out

tl::unexpected<Problem> damaged(const std::string& name) {
  return fail(ProblemKind::format, "the picture is damaged or cut short", name, "Save it again");
}

tl::unexpected<Problem> too_many(std::size_t width, std::size_t height, const std::string& name) {
  return fail(ProblemKind::range, fmt::format("the picture has {} x {} points", width, height), name,
              "Make it smaller: a plan needs no more than 100 million");
}

/// Every `factor`-th point of every `factor`-th row, as PPM (P6).
struct Thinned {
  std::size_t width = 0, height = 0, factor = 1;
  std::string out;

  Thinned(std::size_t w, std::size_t h) {
    while ((w / factor) * (h / factor) > kept_pixels) ++factor;
    width = std::max<std::size_t>(1, w / factor);
    height = std::max<std::size_t>(1, h / factor);
    out = fmt::format("P6\n{} {}\n255\n", width, height);
    out.reserve(out.size() + width * height * 3);
  }
  void row(std::size_t number, const unsigned char* rgb) {
    if (number % factor != 0 || number / factor >= height) return;
    for (std::size_t x = 0; x < width; ++x) out.append(reinterpret_cast<const char*>(rgb + 3 * x * factor), 3);
  }
};

Expected<std::string> from_png(std::string_view bytes, const std::string& name) {
  png_image image{};
  image.version = PNG_IMAGE_VERSION;
  if (png_image_begin_read_from_memory(&image, bytes.data(), bytes.size()) == 0) return damaged(name);
  const std::unique_ptr<png_image, void (*)(png_image*)> freed(&image, png_image_free);
  if (std::size_t{image.width} * image.height > most_pixels) return too_many(image.width, image.height, name);
  image.format = PNG_FORMAT_RGB;
  std::vector<unsigned char> pixels(PNG_IMAGE_SIZE(image));
  const png_color paper{255, 255, 255};
  if (png_image_finish_read(&image, &paper, pixels.data(), 0, nullptr) == 0) return damaged(name);
  Thinned thinned(image.width, image.height);
  for (std::size_t y = 0; y < image.height; ++y) thinned.row(y, pixels.data() + y * image.width * 3);
  return std::move(thinned.out);
}

struct JpegFault {
  jpeg_error_mgr manager;
  std::jmp_buf back;
};

/// All that libjpeg may jump out of: nothing in it has a destructor that a jump would skip.
bool start_jpeg(jpeg_decompress_struct& jpeg, JpegFault& fault, std::string_view bytes) {
  if (setjmp(fault.back) != 0) return false;
  jpeg_create_decompress(&jpeg);
  jpeg_mem_src(&jpeg, reinterpret_cast<const unsigned char*>(bytes.data()), static_cast<unsigned long>(bytes.size()));
  if (jpeg_read_header(&jpeg, TRUE) != JPEG_HEADER_OK) return false;
  jpeg.out_color_space = JCS_RGB;
  jpeg_calc_output_dimensions(&jpeg);
  return true;
}

bool read_row(jpeg_decompress_struct& jpeg, JpegFault& fault, unsigned char* row) {
  if (setjmp(fault.back) != 0) return false;
  JSAMPROW rows[] = {row};
  return jpeg_read_scanlines(&jpeg, rows, 1) == 1;
}

bool begin_rows(jpeg_decompress_struct& jpeg, JpegFault& fault) {
  if (setjmp(fault.back) != 0) return false;
  return jpeg_start_decompress(&jpeg) == TRUE && jpeg.output_components == 3;
}

Expected<std::string> from_jpeg(std::string_view bytes, const std::string& name) {
  JpegFault fault{};
  jpeg_decompress_struct jpeg{};
  jpeg.err = jpeg_std_error(&fault.manager);
  fault.manager.error_exit = [](j_common_ptr c) {
    std::longjmp(reinterpret_cast<JpegFault*>(c->err)->back, 1);  // its manager is its first member
  };
  fault.manager.output_message = [](j_common_ptr) {};
  const std::unique_ptr<jpeg_decompress_struct, void (*)(jpeg_decompress_struct*)> freed(&jpeg,
                                                                                         jpeg_destroy_decompress);
  if (!start_jpeg(jpeg, fault, bytes)) return damaged(name);
  if (std::size_t{jpeg.output_width} * jpeg.output_height > most_pixels)
    return too_many(jpeg.output_width, jpeg.output_height, name);
  if (!begin_rows(jpeg, fault)) return damaged(name);
  Thinned thinned(jpeg.output_width, jpeg.output_height);
  std::vector<unsigned char> row(std::size_t{jpeg.output_width} * 3);
  for (std::size_t y = 0; y < jpeg.output_height; ++y) {
    if (!read_row(jpeg, fault, row.data())) return damaged(name);
    thinned.row(y, row.data());
  }
  // A file cut short is filled with grey and a warning.
  if (fault.manager.num_warnings > 0) return damaged(name);
  return std::move(thinned.out);
}

}  // namespace

Expected<std::string> picture_pixels(std::string_view bytes, const std::string& name) {
  if (bytes.substr(0, 8) == "\x89PNG\r\n\x1a\n") return from_png(bytes, name);
  if (bytes.substr(0, 3) == "\xff\xd8\xff") return from_jpeg(bytes, name);
  return fail(ProblemKind::unsupported, "this is no PNG and no JPEG", name, "Save it as one of these");
}

}  // namespace wren
